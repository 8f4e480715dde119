CREATE TABLE "used_code" (
	"hash" "bytea" PRIMARY KEY NOT NULL,
	"until" bigint NOT NULL
);
