ALTER TABLE strip ADD COLUMN head_size integer NOT NULL DEFAULT 0;
--> statement-breakpoint
ALTER TABLE strip ADD COLUMN size integer NOT NULL DEFAULT 0;
--> statement-breakpoint
UPDATE strip SET size = octet_length(payload);
--> statement-breakpoint
CREATE TABLE strip_minute PARTITION OF strip FOR VALUES IN (60) PARTITION BY RANGE (t_from);
--> statement-breakpoint
CREATE TABLE strip_hour PARTITION OF strip FOR VALUES IN (3600) PARTITION BY RANGE (t_from);
--> statement-breakpoint
UPDATE strip SET level = 2 WHERE level = 3;
