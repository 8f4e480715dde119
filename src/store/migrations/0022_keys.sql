ALTER TABLE "token" RENAME TO "access_key";--> statement-breakpoint
ALTER TABLE "access_key" RENAME CONSTRAINT "token_hash_unique" TO "access_key_hash_unique";--> statement-breakpoint
ALTER INDEX "token_pkey" RENAME TO "access_key_pkey";--> statement-breakpoint
ALTER SEQUENCE "token_id_seq" RENAME TO "access_key_id_seq";--> statement-breakpoint
ALTER TABLE "access_key" ADD COLUMN "scopes" text[] DEFAULT '{send}' NOT NULL;--> statement-breakpoint
ALTER TABLE "access_key" ALTER COLUMN "scopes" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "access_key" ADD COLUMN "made_by" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "access_key" ALTER COLUMN "made_by" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "access_key" ADD COLUMN "expires_at" bigint;--> statement-breakpoint
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION 'the record is added to only';
END $$;--> statement-breakpoint
CREATE TRIGGER record_line_is_kept BEFORE UPDATE OR DELETE OR TRUNCATE ON "record_line"
FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
