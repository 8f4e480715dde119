CREATE TABLE "metric_use" (
	"name" text PRIMARY KEY NOT NULL,
	"services" text[] NOT NULL,
	"releases" integer NOT NULL,
	"series" bigint NOT NULL,
	"series_now" bigint NOT NULL,
	"overflows" boolean NOT NULL,
	"attributes" text[] NOT NULL,
	"strips" bigint DEFAULT 0 NOT NULL,
	"points_raw" bigint DEFAULT 0 NOT NULL,
	"points_minutes" bigint DEFAULT 0 NOT NULL,
	"points_hours" bigint DEFAULT 0 NOT NULL,
	"bytes" bigint DEFAULT 0 NOT NULL,
	"oldest" bigint,
	"newest" bigint
);
--> statement-breakpoint
CREATE TABLE "strip_sum" (
	"partition" text NOT NULL,
	"metric_id" integer NOT NULL,
	"resolution" integer NOT NULL,
	"strips" bigint NOT NULL,
	"points" bigint NOT NULL,
	"bytes" bigint NOT NULL,
	"oldest" bigint NOT NULL,
	"newest" bigint NOT NULL,
	CONSTRAINT "strip_sum_partition_metric_id_pk" PRIMARY KEY("partition","metric_id")
);
--> statement-breakpoint
CREATE TABLE "summed_partition" (
	"partition" text PRIMARY KEY NOT NULL,
	"changes" text NOT NULL
);
