CREATE TABLE "export_queue" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"exporter" text NOT NULL,
	"signal" text NOT NULL,
	"at" bigint NOT NULL,
	"items" integer NOT NULL,
	"size" integer NOT NULL,
	"body" "bytea" NOT NULL
);
--> statement-breakpoint
CREATE TABLE "exporter_memory" (
	"exporter" text PRIMARY KEY NOT NULL,
	"at" bigint NOT NULL,
	"body" "bytea" NOT NULL
);
--> statement-breakpoint
CREATE TABLE "exporter_secret" (
	"exporter" text NOT NULL,
	"name" text NOT NULL,
	"value" "bytea" NOT NULL,
	CONSTRAINT "exporter_secret_exporter_name_pk" PRIMARY KEY("exporter","name")
);
--> statement-breakpoint
CREATE TABLE "exporter_status" (
	"exporter" text PRIMARY KEY NOT NULL,
	"sent" bigint NOT NULL,
	"refused" bigint NOT NULL,
	"lost" bigint NOT NULL,
	"sent_at" bigint,
	"failure" text,
	"failed_at" bigint,
	"retry_at" bigint
);
--> statement-breakpoint
CREATE TABLE "limit_seen" (
	"step" text NOT NULL,
	"metric" text NOT NULL,
	"series" text NOT NULL,
	CONSTRAINT "limit_seen_step_metric_series_pk" PRIMARY KEY("step","metric","series")
);
--> statement-breakpoint
CREATE TABLE "trace_decision" (
	"step" text NOT NULL,
	"trace_id" text NOT NULL,
	"at" bigint NOT NULL,
	"kept" boolean NOT NULL,
	"why" text NOT NULL,
	CONSTRAINT "trace_decision_step_trace_id_pk" PRIMARY KEY("step","trace_id")
);
--> statement-breakpoint
CREATE TABLE "undecided_trace" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"version" integer NOT NULL,
	"step" text NOT NULL,
	"trace_id" text NOT NULL,
	"at" bigint NOT NULL,
	"spans" integer NOT NULL,
	"body" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "arrival_sample" ADD COLUMN "signal" text DEFAULT 'metrics' NOT NULL;--> statement-breakpoint
CREATE INDEX "export_queue_exporter" ON "export_queue" USING btree ("exporter","id");--> statement-breakpoint
CREATE INDEX "trace_decision_at" ON "trace_decision" USING btree ("at");--> statement-breakpoint
CREATE INDEX "undecided_trace_id" ON "undecided_trace" USING btree ("step","trace_id");--> statement-breakpoint
CREATE INDEX "undecided_trace_at" ON "undecided_trace" USING btree ("version","step","at");