CREATE TABLE "contract" (
	"name" text NOT NULL,
	"version" integer NOT NULL,
	"at" bigint NOT NULL,
	"who" text NOT NULL,
	"note" text NOT NULL,
	"body" jsonb,
	CONSTRAINT "contract_name_version_pk" PRIMARY KEY("name","version")
);
--> statement-breakpoint
CREATE TABLE "finding" (
	"id" serial PRIMARY KEY NOT NULL,
	"key" text NOT NULL,
	"metric" text NOT NULL,
	"code" text NOT NULL,
	"subject" text NOT NULL,
	"service" text NOT NULL,
	"environment" text NOT NULL,
	"release" text NOT NULL,
	"instance" text NOT NULL,
	"detail" text NOT NULL,
	"first_at" bigint NOT NULL,
	"last_at" bigint NOT NULL,
	"ended_at" bigint,
	CONSTRAINT "finding_key_unique" UNIQUE("key")
);
--> statement-breakpoint
CREATE TABLE "heard" (
	"resource_id" integer PRIMARY KEY NOT NULL,
	"first_at" bigint NOT NULL,
	"last_at" bigint NOT NULL,
	"points" bigint NOT NULL,
	"minute" bigint NOT NULL,
	"minute_points" integer NOT NULL,
	"before_points" integer NOT NULL,
	"every" integer
);
--> statement-breakpoint
CREATE TABLE "setting" (
	"name" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "target" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"url" text NOT NULL,
	"every" integer NOT NULL,
	"timeout" integer NOT NULL,
	"auth" text NOT NULL,
	"username" text NOT NULL,
	"secret" "bytea",
	"labels" jsonb NOT NULL,
	"choice" jsonb NOT NULL,
	"paused" boolean NOT NULL,
	"created_at" bigint NOT NULL,
	"scraped_at" bigint,
	"took" integer,
	"samples" integer,
	"points" integer,
	"failure" text,
	"failure_detail" text,
	"since_at" bigint
);
--> statement-breakpoint
CREATE TABLE "token" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"environment" text NOT NULL,
	"hash" "bytea" NOT NULL,
	"hint" text NOT NULL,
	"created_at" bigint NOT NULL,
	"last_used_at" bigint,
	"revoked_at" bigint,
	CONSTRAINT "token_hash_unique" UNIQUE("hash")
);
--> statement-breakpoint
CREATE TABLE "turned_away" (
	"id" serial PRIMARY KEY NOT NULL,
	"key" text NOT NULL,
	"address" text NOT NULL,
	"agent" text NOT NULL,
	"request" text NOT NULL,
	"status" integer NOT NULL,
	"reason" text NOT NULL,
	"first_at" bigint NOT NULL,
	"last_at" bigint NOT NULL,
	"count" integer NOT NULL,
	CONSTRAINT "turned_away_key_unique" UNIQUE("key")
);
--> statement-breakpoint
ALTER TABLE "heard" ADD CONSTRAINT "heard_resource_id_resource_id_fk" FOREIGN KEY ("resource_id") REFERENCES "public"."resource"("id") ON DELETE no action ON UPDATE no action;