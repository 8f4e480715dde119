ALTER TABLE "heard" RENAME TO "activity";--> statement-breakpoint
ALTER TABLE "activity" RENAME CONSTRAINT "heard_pkey" TO "activity_pkey";--> statement-breakpoint
ALTER TABLE "activity" RENAME CONSTRAINT "heard_resource_id_resource_id_fk" TO "activity_resource_id_resource_id_fk";--> statement-breakpoint
ALTER TABLE "turned_away" RENAME TO "rejected_request";--> statement-breakpoint
ALTER TABLE "rejected_request" RENAME CONSTRAINT "turned_away_pkey" TO "rejected_request_pkey";--> statement-breakpoint
ALTER TABLE "rejected_request" RENAME CONSTRAINT "turned_away_key_unique" TO "rejected_request_key_unique";--> statement-breakpoint
ALTER SEQUENCE "turned_away_id_seq" RENAME TO "rejected_request_id_seq";
