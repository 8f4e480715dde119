CREATE TABLE "stored_request" (
	"id" text PRIMARY KEY NOT NULL,
	"at" bigint NOT NULL
);
