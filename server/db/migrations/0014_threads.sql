CREATE TABLE "answers" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"thread_id" uuid NOT NULL,
	"text" text NOT NULL,
	"by" text NOT NULL,
	"said_at" text NOT NULL,
	CONSTRAINT "answers_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
CREATE TABLE "threads" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"at" jsonb NOT NULL,
	"text" text NOT NULL,
	"by" text NOT NULL,
	"said_at" text NOT NULL,
	"done" boolean NOT NULL,
	CONSTRAINT "threads_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
ALTER TABLE "answers" ADD CONSTRAINT "answers_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "threads" ADD CONSTRAINT "threads_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;