CREATE TABLE "exemplar" (
	"metric_id" integer NOT NULL,
	"series_id" bigint NOT NULL,
	"ms" bigint NOT NULL,
	"ns" integer NOT NULL,
	"value" double precision NOT NULL,
	"trace_id" text NOT NULL,
	"span_id" text NOT NULL,
	"attributes" jsonb NOT NULL,
	CONSTRAINT "exemplar_series_id_ms_ns_trace_id_span_id_pk" PRIMARY KEY("series_id","ms","ns","trace_id","span_id")
);
--> statement-breakpoint
CREATE TABLE "metric" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"unit" text NOT NULL,
	"temporality" text NOT NULL,
	"monotonic" boolean NOT NULL,
	"description" text NOT NULL,
	"first_at" bigint NOT NULL,
	CONSTRAINT "metric_identity" UNIQUE("name","kind","unit","temporality","monotonic")
);
--> statement-breakpoint
CREATE TABLE "release" (
	"service" text NOT NULL,
	"environment" text NOT NULL,
	"version" text NOT NULL,
	"first_at" bigint NOT NULL,
	"last_at" bigint NOT NULL,
	CONSTRAINT "release_service_environment_version_pk" PRIMARY KEY("service","environment","version")
);
--> statement-breakpoint
CREATE TABLE "resource" (
	"id" serial PRIMARY KEY NOT NULL,
	"hash" "bytea" NOT NULL,
	"attributes" jsonb NOT NULL,
	"service" text NOT NULL,
	"release" text NOT NULL,
	"environment" text NOT NULL,
	"instance" text NOT NULL,
	CONSTRAINT "resource_hash_unique" UNIQUE("hash")
);
--> statement-breakpoint
CREATE TABLE "series" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "series_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"metric_id" integer NOT NULL,
	"hash" "bytea" NOT NULL,
	"resource_id" integer NOT NULL,
	"scope_name" text NOT NULL,
	"scope_version" text NOT NULL,
	"attributes" jsonb NOT NULL,
	CONSTRAINT "series_identity" UNIQUE("metric_id","hash")
);
--> statement-breakpoint
ALTER TABLE "series" ADD CONSTRAINT "series_metric_id_metric_id_fk" FOREIGN KEY ("metric_id") REFERENCES "public"."metric"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series" ADD CONSTRAINT "series_resource_id_resource_id_fk" FOREIGN KEY ("resource_id") REFERENCES "public"."resource"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "exemplar_metric_time" ON "exemplar" USING btree ("metric_id","ms");--> statement-breakpoint
CREATE INDEX "series_resource" ON "series" USING btree ("resource_id");