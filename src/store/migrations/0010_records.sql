-- Spans and log records, in partitions of a day. Times are Unix milliseconds with the nanoseconds inside them.
CREATE TABLE span (
  t bigint NOT NULL,
  ns int NOT NULL,
  took bigint NOT NULL,
  trace_id text NOT NULL,
  span_id text NOT NULL,
  parent_id text NOT NULL,
  resource_id int NOT NULL,
  scope_name text NOT NULL,
  scope_version text NOT NULL,
  name text NOT NULL,
  kind text NOT NULL,
  status text NOT NULL,
  status_message text NOT NULL,
  state text NOT NULL,
  flags bigint NOT NULL,
  attributes jsonb NOT NULL,
  events jsonb NOT NULL,
  links jsonb NOT NULL,
  dropped jsonb NOT NULL,
  PRIMARY KEY (trace_id, span_id, t)
) PARTITION BY RANGE (t);
--> statement-breakpoint
CREATE INDEX span_resource_time ON span (resource_id, t);
--> statement-breakpoint
CREATE TABLE log_record (
  t bigint NOT NULL,
  ns int NOT NULL,
  observed bigint NOT NULL,
  observed_ns int NOT NULL,
  severity smallint NOT NULL,
  severity_text text NOT NULL,
  body jsonb NOT NULL,
  trace_id text NOT NULL,
  span_id text NOT NULL,
  flags bigint NOT NULL,
  event_name text NOT NULL,
  resource_id int NOT NULL,
  scope_name text NOT NULL,
  scope_version text NOT NULL,
  attributes jsonb NOT NULL,
  dropped int NOT NULL
) PARTITION BY RANGE (t);
--> statement-breakpoint
CREATE INDEX log_record_resource_time ON log_record (resource_id, t);
--> statement-breakpoint
CREATE INDEX log_record_trace ON log_record (trace_id) WHERE trace_id <> '';
