CREATE TABLE "presets" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"form" text NOT NULL,
	"name" text NOT NULL,
	"values" jsonb NOT NULL,
	"picture" text,
	CONSTRAINT "presets_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
CREATE TABLE "recipes" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"inputs" jsonb NOT NULL,
	"steps" jsonb NOT NULL,
	CONSTRAINT "recipes_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
ALTER TABLE "presets" ADD CONSTRAINT "presets_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "recipes" ADD CONSTRAINT "recipes_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;