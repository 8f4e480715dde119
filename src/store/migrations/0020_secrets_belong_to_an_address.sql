ALTER TABLE "exporter_secret" ADD COLUMN "origin" text DEFAULT '' NOT NULL;--> statement-breakpoint
UPDATE "exporter_secret" s SET "origin" = lower(substring(e.url from '^(https?://[^/?#]+)'))
FROM (
  SELECT one ->> 'id' AS id, one ->> 'url' AS url
  FROM "pipeline_version" v, jsonb_array_elements(v."config" -> 'exporters') AS one
  WHERE v."id" = (SELECT max("id") FROM "pipeline_version") AND one ->> 'type' = 'otlp'
) e
WHERE e.id = s."exporter" AND e.url ~* '^https?://[^/?#]+';
