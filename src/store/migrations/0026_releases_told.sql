CREATE TABLE "announcement" (
	"service" text NOT NULL,
	"environment" text NOT NULL,
	"version" text NOT NULL,
	"at" bigint NOT NULL,
	"commit" text NOT NULL,
	"author" text NOT NULL,
	"notes" text NOT NULL,
	"link" text NOT NULL,
	"share" double precision,
	"announced_by" text NOT NULL,
	"announced_at" bigint NOT NULL,
	CONSTRAINT "announcement_service_environment_version_pk" PRIMARY KEY("service","environment","version")
);
--> statement-breakpoint
CREATE TABLE "kept_comparison" (
	"id" text PRIMARY KEY NOT NULL,
	"at" bigint NOT NULL,
	"who" text NOT NULL,
	"content" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "ladder_setting" (
	"service" text NOT NULL,
	"environment" text NOT NULL,
	"content" jsonb NOT NULL,
	"changed_by" text NOT NULL,
	"changed_at" bigint NOT NULL,
	CONSTRAINT "ladder_setting_service_environment_pk" PRIMARY KEY("service","environment")
);
--> statement-breakpoint
CREATE TABLE "service_outlook" (
	"service" text NOT NULL,
	"environment" text NOT NULL,
	"at" bigint NOT NULL,
	"content" jsonb NOT NULL,
	CONSTRAINT "service_outlook_service_environment_pk" PRIMARY KEY("service","environment")
);
--> statement-breakpoint
CREATE INDEX "kept_comparison_at" ON "kept_comparison" USING btree ("at");