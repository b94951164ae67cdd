-- Not logged (the manual of PostgreSQL, CREATE TABLE): gone after a crash, and made again then.
CREATE UNLOGGED TABLE "made_files" (
	"job_id" uuid NOT NULL,
	"piece" integer NOT NULL,
	"bytes" "bytea" NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "made_files_job_id_piece_pk" PRIMARY KEY("job_id","piece")
);
--> statement-breakpoint
CREATE INDEX "made_files_made_at" ON "made_files" USING btree ("made_at");