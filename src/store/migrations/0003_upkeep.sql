CREATE TABLE "job" (
	"name" text PRIMARY KEY NOT NULL,
	"holder" text NOT NULL,
	"started_at" bigint NOT NULL,
	"finished_at" bigint,
	"done" integer NOT NULL,
	"backlog" integer NOT NULL,
	"waiting_since" bigint,
	"error" text
);
--> statement-breakpoint
CREATE TABLE "purge" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" bigint NOT NULL,
	"who" text NOT NULL,
	"what" jsonb NOT NULL,
	"points" bigint NOT NULL,
	"bytes" bigint NOT NULL,
	"done_day" integer,
	"finished_at" bigint
);
--> statement-breakpoint
ALTER TABLE "metric" ADD COLUMN "keep_raw" bigint;--> statement-breakpoint
ALTER TABLE "metric" ADD COLUMN "keep_minute" bigint;--> statement-breakpoint
ALTER TABLE "metric" ADD COLUMN "keep_hour" bigint;