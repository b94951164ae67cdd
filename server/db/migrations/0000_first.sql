CREATE TABLE "changes" (
	"level_id" uuid NOT NULL,
	"revision" integer NOT NULL,
	"id" uuid NOT NULL,
	"label" text NOT NULL,
	"author" text NOT NULL,
	"operations" jsonb NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "changes_level_id_revision_pk" PRIMARY KEY("level_id","revision")
);
--> statement-breakpoint
CREATE TABLE "levels" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"placement_count" integer DEFAULT 0 NOT NULL,
	"picture" "bytea",
	"picture_type" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"deleted_at" timestamp with time zone,
	CONSTRAINT "levels_revision_counts_up" CHECK ("levels"."revision" >= 0)
);
--> statement-breakpoint
CREATE TABLE "meshes" (
	"hash" text PRIMARY KEY NOT NULL,
	"glb" "bytea" NOT NULL,
	CONSTRAINT "meshes_hash_is_sha256" CHECK ("meshes"."hash" ~ '^[0-9a-f]{64}$')
);
--> statement-breakpoint
CREATE TABLE "parts" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"tags" text[] NOT NULL,
	"mesh_hash" text NOT NULL,
	"min_x" double precision NOT NULL,
	"min_y" double precision NOT NULL,
	"min_z" double precision NOT NULL,
	"max_x" double precision NOT NULL,
	"max_y" double precision NOT NULL,
	"max_z" double precision NOT NULL,
	"triangles" integer NOT NULL,
	"position" integer NOT NULL,
	CONSTRAINT "parts_kind_known" CHECK ("parts"."kind" in ('piece', 'prop'))
);
--> statement-breakpoint
CREATE TABLE "placements" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"parent_id" uuid,
	"sort_order" double precision NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"part_id" uuid,
	"translation_x" double precision NOT NULL,
	"translation_y" double precision NOT NULL,
	"translation_z" double precision NOT NULL,
	"rotation_x" double precision NOT NULL,
	"rotation_y" double precision NOT NULL,
	"rotation_z" double precision NOT NULL,
	"rotation_w" double precision NOT NULL,
	"scale_x" double precision NOT NULL,
	"scale_y" double precision NOT NULL,
	"scale_z" double precision NOT NULL,
	"pivot_x" double precision NOT NULL,
	"pivot_y" double precision NOT NULL,
	"pivot_z" double precision NOT NULL,
	"hidden" boolean NOT NULL,
	"locked" boolean NOT NULL,
	CONSTRAINT "placements_level_id_id_pk" PRIMARY KEY("level_id","id"),
	CONSTRAINT "placements_kind_known" CHECK (("placements"."kind" = 'part') = ("placements"."part_id" is not null) and "placements"."kind" in ('part', 'group')),
	CONSTRAINT "placements_size_not_zero" CHECK ("placements"."scale_x" <> 0 and "placements"."scale_y" <> 0 and "placements"."scale_z" <> 0),
	CONSTRAINT "placements_not_own_parent" CHECK ("placements"."parent_id" <> "placements"."id")
);
--> statement-breakpoint
ALTER TABLE "changes" ADD CONSTRAINT "changes_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "parts" ADD CONSTRAINT "parts_mesh_hash_meshes_hash_fk" FOREIGN KEY ("mesh_hash") REFERENCES "public"."meshes"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "placements" ADD CONSTRAINT "placements_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "placements" ADD CONSTRAINT "placements_part_id_parts_id_fk" FOREIGN KEY ("part_id") REFERENCES "public"."parts"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "placements" ADD CONSTRAINT "placements_parent" FOREIGN KEY ("level_id","parent_id") REFERENCES "public"."placements"("level_id","id") ON DELETE no action ON UPDATE no action DEFERRABLE INITIALLY DEFERRED;--> statement-breakpoint
CREATE UNIQUE INDEX "changes_once" ON "changes" USING btree ("level_id","id");--> statement-breakpoint
CREATE INDEX "levels_by_change" ON "levels" USING btree ("changed_at");--> statement-breakpoint
CREATE INDEX "parts_by_position" ON "parts" USING btree ("position");--> statement-breakpoint
CREATE INDEX "placements_by_parent" ON "placements" USING btree ("level_id","parent_id");--> statement-breakpoint
CREATE INDEX "placements_by_part" ON "placements" USING btree ("part_id");