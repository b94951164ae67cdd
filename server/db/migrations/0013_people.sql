CREATE TABLE "keeper_log" (
	"id" integer PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "keeper_log_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 2147483647 START WITH 1 CACHE 1),
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"by" text NOT NULL,
	"person_id" uuid,
	"did" text NOT NULL,
	"to" text NOT NULL,
	"now" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "level_roles" (
	"person_id" uuid NOT NULL,
	"level_id" uuid NOT NULL,
	"role" text NOT NULL,
	CONSTRAINT "level_roles_person_id_level_id_pk" PRIMARY KEY("person_id","level_id"),
	CONSTRAINT "level_roles_known" CHECK ("level_roles"."role" in ('none', 'look', 'note', 'work'))
);
--> statement-breakpoint
CREATE TABLE "people" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"role" text NOT NULL,
	"key_hash" text,
	"key_made_at" timestamp with time zone,
	"subject" text,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp with time zone,
	CONSTRAINT "people_key_hash_unique" UNIQUE("key_hash"),
	CONSTRAINT "people_subject_unique" UNIQUE("subject"),
	CONSTRAINT "people_role_known" CHECK ("people"."role" in ('look', 'note', 'work', 'keep'))
);
--> statement-breakpoint
ALTER TABLE "changes" ADD COLUMN "person_id" uuid;--> statement-breakpoint
ALTER TABLE "keeper_log" ADD CONSTRAINT "keeper_log_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "level_roles" ADD CONSTRAINT "level_roles_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "level_roles" ADD CONSTRAINT "level_roles_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "level_roles_by_level" ON "level_roles" USING btree ("level_id");--> statement-breakpoint
CREATE UNIQUE INDEX "people_by_name" ON "people" USING btree (lower("name")) WHERE "people"."ended_at" is null;--> statement-breakpoint
ALTER TABLE "changes" ADD CONSTRAINT "changes_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;