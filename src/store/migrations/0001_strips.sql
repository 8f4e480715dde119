CREATE SEQUENCE strip_id;
--> statement-breakpoint
CREATE TABLE strip (
  id bigint NOT NULL DEFAULT nextval('strip_id'),
  metric_id integer NOT NULL,
  resolution smallint NOT NULL,
  level smallint NOT NULL,
  arrived bigint NOT NULL DEFAULT currval('strip_id'),
  t_from bigint NOT NULL,
  t_to bigint NOT NULL,
  series_count integer NOT NULL,
  point_count integer NOT NULL,
  payload bytea NOT NULL
) PARTITION BY LIST (resolution);
--> statement-breakpoint
ALTER TABLE strip ALTER COLUMN payload SET STORAGE EXTERNAL;
--> statement-breakpoint
CREATE INDEX strip_metric_time ON strip (metric_id, resolution, t_from);
--> statement-breakpoint
CREATE INDEX strip_loose ON strip (metric_id, t_from) WHERE level < 2;
--> statement-breakpoint
CREATE TABLE strip_raw PARTITION OF strip FOR VALUES IN (0) PARTITION BY RANGE (t_from);
