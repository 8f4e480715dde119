CREATE TABLE "read_lately" (
	"reading" text PRIMARY KEY NOT NULL,
	"at" bigint NOT NULL
);
