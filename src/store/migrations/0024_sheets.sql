CREATE TABLE "sheet" (
	"id" text PRIMARY KEY NOT NULL,
	"version" integer NOT NULL,
	"name" text NOT NULL,
	"purpose" text NOT NULL,
	"tags" text[] NOT NULL,
	"readers" text[] NOT NULL,
	"metrics" text[] NOT NULL,
	"attributes" text[] NOT NULL,
	"plates" integer NOT NULL,
	"deleted_at" bigint,
	"deleted_by" text
);
--> statement-breakpoint
CREATE TABLE "sheet_draft" (
	"sheet" text NOT NULL,
	"account" text NOT NULL,
	"based" integer NOT NULL,
	"at" bigint NOT NULL,
	"state" jsonb NOT NULL,
	CONSTRAINT "sheet_draft_sheet_account_pk" PRIMARY KEY("sheet","account")
);
--> statement-breakpoint
CREATE TABLE "sheet_seen" (
	"sheet" text NOT NULL,
	"account" text NOT NULL,
	"opened_at" bigint,
	"starred_at" bigint,
	CONSTRAINT "sheet_seen_sheet_account_pk" PRIMARY KEY("sheet","account")
);
--> statement-breakpoint
CREATE TABLE "sheet_version" (
	"sheet" text NOT NULL,
	"version" integer NOT NULL,
	"at" bigint NOT NULL,
	"who" text NOT NULL,
	"note" text NOT NULL,
	"body" jsonb NOT NULL,
	CONSTRAINT "sheet_version_sheet_version_pk" PRIMARY KEY("sheet","version")
);
--> statement-breakpoint
ALTER TABLE "sheet_draft" ADD CONSTRAINT "sheet_draft_sheet_sheet_id_fk" FOREIGN KEY ("sheet") REFERENCES "public"."sheet"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sheet_seen" ADD CONSTRAINT "sheet_seen_sheet_sheet_id_fk" FOREIGN KEY ("sheet") REFERENCES "public"."sheet"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sheet_version" ADD CONSTRAINT "sheet_version_sheet_sheet_id_fk" FOREIGN KEY ("sheet") REFERENCES "public"."sheet"("id") ON DELETE cascade ON UPDATE no action;