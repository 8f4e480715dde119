CREATE TABLE "lane_member" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"day" integer NOT NULL,
	"hash" "bytea" NOT NULL,
	"metric" jsonb NOT NULL,
	"identity" jsonb NOT NULL,
	CONSTRAINT "lane_member_day" UNIQUE("day","hash")
);
--> statement-breakpoint
-- Blocks are packed already.
ALTER TABLE "lane_waiting" ALTER COLUMN "body" SET STORAGE EXTERNAL;
