DROP INDEX strip_loose;
--> statement-breakpoint
CREATE INDEX strip_loose ON strip (metric_id, t_from) WHERE level < 3;
