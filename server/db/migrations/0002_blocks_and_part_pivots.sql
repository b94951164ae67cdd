CREATE TABLE "blocks" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"shape" jsonb NOT NULL,
	"color" text NOT NULL,
	CONSTRAINT "blocks_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
ALTER TABLE "placements" DROP CONSTRAINT "placements_kind_known";--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "pivot_x" double precision DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "pivot_y" double precision DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "pivot_z" double precision DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "in_kit" boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE "placements" ADD COLUMN "block_id" uuid;--> statement-breakpoint
ALTER TABLE "blocks" ADD CONSTRAINT "blocks_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "placements" ADD CONSTRAINT "placements_block" FOREIGN KEY ("level_id","block_id") REFERENCES "public"."blocks"("level_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "placements_by_block" ON "placements" USING btree ("level_id","block_id");--> statement-breakpoint
ALTER TABLE "placements" ADD CONSTRAINT "placements_kind_known" CHECK (("placements"."kind" = 'part') = ("placements"."part_id" is not null) and ("placements"."kind" = 'block') = ("placements"."block_id" is not null) and "placements"."kind" in ('part', 'block', 'group', 'camera', 'light', 'marker'));