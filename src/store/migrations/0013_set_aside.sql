CREATE TABLE "set_aside" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "set_aside_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"at" bigint NOT NULL,
	"kind" text NOT NULL,
	"subject" text NOT NULL,
	"points" integer NOT NULL,
	"reason" text NOT NULL,
	"body" "bytea" NOT NULL
);
