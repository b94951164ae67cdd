CREATE TABLE "milestones" (
	"id" uuid PRIMARY KEY NOT NULL,
	"level_id" uuid NOT NULL,
	"revision" integer NOT NULL,
	"name" text NOT NULL,
	"about" text NOT NULL,
	"made" text NOT NULL,
	"by" text NOT NULL,
	"person_id" uuid,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	"deleted_at" timestamp with time zone,
	"picture" "bytea",
	"picture_type" text,
	"content" "bytea",
	"placement_count" integer,
	CONSTRAINT "milestones_made_known" CHECK ("milestones"."made" in ('by hand', 'day', 'large'))
);
--> statement-breakpoint
ALTER TABLE "levels" ADD COLUMN "picture_revision" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "levels" ADD COLUMN "variant_of" uuid;--> statement-breakpoint
ALTER TABLE "levels" ADD COLUMN "began_at" uuid;--> statement-breakpoint
ALTER TABLE "levels" ADD COLUMN "tags" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "levels" ADD COLUMN "starting_point" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "levels" ADD COLUMN "archived_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "milestones" ADD CONSTRAINT "milestones_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "milestones" ADD CONSTRAINT "milestones_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "milestones_of_level" ON "milestones" USING btree ("level_id","made_at");--> statement-breakpoint
ALTER TABLE "levels" ADD CONSTRAINT "levels_variant_of_levels_id_fk" FOREIGN KEY ("variant_of") REFERENCES "public"."levels"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "levels" ADD CONSTRAINT "levels_began_at_milestones_id_fk" FOREIGN KEY ("began_at") REFERENCES "public"."milestones"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "levels_variants" ON "levels" USING btree ("variant_of");--> statement-breakpoint
UPDATE "levels" SET "picture_revision" = "revision" WHERE "picture" IS NOT NULL;
