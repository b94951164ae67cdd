CREATE TABLE "person_settings" (
	"person_id" uuid PRIMARY KEY NOT NULL,
	"version" integer NOT NULL,
	"settings" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "person_settings" ADD CONSTRAINT "person_settings_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;