CREATE TABLE "registry_epoch" (
	"epoch" integer PRIMARY KEY NOT NULL
);
--> statement-breakpoint
ALTER TABLE "limit_seen" ADD COLUMN "at" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE INDEX "limit_seen_at" ON "limit_seen" USING btree ("at");--> statement-breakpoint
INSERT INTO "registry_epoch" VALUES (0);
