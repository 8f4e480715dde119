CREATE TABLE "arrival_sample" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"at" bigint NOT NULL,
	"span" integer NOT NULL,
	"seen" integer NOT NULL,
	"points" integer NOT NULL,
	"body" "bytea" NOT NULL
);
--> statement-breakpoint
CREATE TABLE "lane_state" (
	"version" integer PRIMARY KEY NOT NULL,
	"at" bigint NOT NULL,
	"body" "bytea" NOT NULL
);
--> statement-breakpoint
CREATE TABLE "lane_waiting" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"version" integer NOT NULL,
	"step" text NOT NULL,
	"t_from" double precision NOT NULL,
	"t_to" double precision NOT NULL,
	"points" integer NOT NULL,
	"body" "bytea" NOT NULL
);
--> statement-breakpoint
CREATE TABLE "pipeline_version" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" bigint NOT NULL,
	"who" text NOT NULL,
	"note" text NOT NULL,
	"config" jsonb NOT NULL
);
--> statement-breakpoint
CREATE INDEX "lane_waiting_version" ON "lane_waiting" USING btree ("version","step","id");--> statement-breakpoint
ALTER TABLE "arrival_sample" SET UNLOGGED;
