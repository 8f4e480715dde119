CREATE TABLE "known_value" (
	"metric_id" integer NOT NULL,
	"key" text NOT NULL,
	"value" text NOT NULL,
	"hash" text NOT NULL,
	CONSTRAINT "known_value_metric_id_hash_pk" PRIMARY KEY("metric_id","hash")
);
--> statement-breakpoint
INSERT INTO known_value (metric_id, key, value, hash)
SELECT DISTINCT s.metric_id, k.key, left(k.value, 500), md5(k.key || chr(1) || k.value)
FROM series s CROSS JOIN LATERAL jsonb_each_text(s.attributes) AS k(key, value)
ON CONFLICT DO NOTHING;
--> statement-breakpoint
DO $$ BEGIN
  CREATE EXTENSION IF NOT EXISTS pg_trgm;
  CREATE INDEX known_value_text ON known_value USING gin (value gin_trgm_ops);
EXCEPTION WHEN OTHERS THEN
  RAISE NOTICE 'values are searched without an index: %', SQLERRM;
END $$;
