CREATE TABLE "sheet_link" (
	"id" serial PRIMARY KEY NOT NULL,
	"sheet" text NOT NULL,
	"hash" "bytea" NOT NULL,
	"made_by" text NOT NULL,
	"created_at" bigint NOT NULL,
	"ends_at" bigint NOT NULL,
	"revoked_at" bigint,
	CONSTRAINT "sheet_link_hash_unique" UNIQUE("hash")
);
--> statement-breakpoint
ALTER TABLE "sheet_link" ADD CONSTRAINT "sheet_link_sheet_sheet_id_fk" FOREIGN KEY ("sheet") REFERENCES "public"."sheet"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "sheet_link_sheet" ON "sheet_link" USING btree ("sheet");