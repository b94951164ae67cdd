CREATE TABLE "layers" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"color" text NOT NULL,
	"visible" boolean NOT NULL,
	"locked" boolean NOT NULL,
	"sort_order" double precision NOT NULL,
	CONSTRAINT "layers_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
CREATE TABLE "stations" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"eye_x" double precision NOT NULL,
	"eye_y" double precision NOT NULL,
	"eye_z" double precision NOT NULL,
	"target_x" double precision NOT NULL,
	"target_y" double precision NOT NULL,
	"target_z" double precision NOT NULL,
	"field_of_view" double precision NOT NULL,
	"sort_order" double precision NOT NULL,
	CONSTRAINT "stations_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
ALTER TABLE "placements" DROP CONSTRAINT "placements_kind_known";--> statement-breakpoint
ALTER TABLE "placements" ADD COLUMN "layer_id" uuid;--> statement-breakpoint
ALTER TABLE "placements" ADD COLUMN "own" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "layers" ADD CONSTRAINT "layers_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stations" ADD CONSTRAINT "stations_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "placements" ADD CONSTRAINT "placements_layer" FOREIGN KEY ("level_id","layer_id") REFERENCES "public"."layers"("level_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "placements" ADD CONSTRAINT "placements_kind_known" CHECK (("placements"."kind" = 'part') = ("placements"."part_id" is not null) and "placements"."kind" in ('part', 'group', 'camera', 'light', 'marker'));