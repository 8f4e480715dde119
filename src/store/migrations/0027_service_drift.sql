CREATE TABLE "service_drift" (
	"service" text NOT NULL,
	"environment" text NOT NULL,
	"at" bigint NOT NULL,
	"content" jsonb NOT NULL,
	CONSTRAINT "service_drift_service_environment_pk" PRIMARY KEY("service","environment")
);
