ALTER TABLE "access_key" ADD COLUMN "made_by_id" text;--> statement-breakpoint
ALTER TABLE "read_lately" ADD COLUMN "who" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "access_key" ADD CONSTRAINT "access_key_made_by_id_person_id_fk" FOREIGN KEY ("made_by_id") REFERENCES "public"."person"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
-- Keys that are there already belong to the account of the name that stands beside them, where only one has it.
UPDATE "access_key" k SET "made_by_id" = p.id FROM "person" p
  WHERE p.name = k.made_by AND (SELECT count(*) FROM "person" o WHERE o.name = p.name) = 1;
