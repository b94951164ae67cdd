CREATE TABLE "mesh_steps" (
	"mesh_hash" text PRIMARY KEY NOT NULL,
	"glb" "bytea"
);
--> statement-breakpoint
CREATE TABLE "mesh_textures" (
	"mesh_hash" text NOT NULL,
	"texture_hash" text NOT NULL,
	CONSTRAINT "mesh_textures_mesh_hash_texture_hash_pk" PRIMARY KEY("mesh_hash","texture_hash")
);
--> statement-breakpoint
CREATE TABLE "textures" (
	"hash" text PRIMARY KEY NOT NULL,
	"type" text NOT NULL,
	"bytes" "bytea" NOT NULL,
	CONSTRAINT "textures_hash_is_sha256" CHECK ("textures"."hash" ~ '^[0-9a-f]{64}$')
);
--> statement-breakpoint
CREATE TABLE "variants" (
	"id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kit" text NOT NULL,
	"by" text NOT NULL,
	"parts" uuid[] NOT NULL,
	CONSTRAINT "variants_by_known" CHECK ("variants"."by" in ('turn', 'random'))
);
--> statement-breakpoint
ALTER TABLE "levels" ADD COLUMN "part_id" uuid;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "kit" text DEFAULT 'Own parts' NOT NULL;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "sockets" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "picture" "bytea";--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "picture_type" text;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "made_of" integer;--> statement-breakpoint
ALTER TABLE "mesh_steps" ADD CONSTRAINT "mesh_steps_mesh_hash_meshes_hash_fk" FOREIGN KEY ("mesh_hash") REFERENCES "public"."meshes"("hash") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mesh_textures" ADD CONSTRAINT "mesh_textures_mesh_hash_meshes_hash_fk" FOREIGN KEY ("mesh_hash") REFERENCES "public"."meshes"("hash") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mesh_textures" ADD CONSTRAINT "mesh_textures_texture_hash_textures_hash_fk" FOREIGN KEY ("texture_hash") REFERENCES "public"."textures"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "mesh_textures_by_texture" ON "mesh_textures" USING btree ("texture_hash");--> statement-breakpoint
ALTER TABLE "levels" ADD CONSTRAINT "levels_part_id_parts_id_fk" FOREIGN KEY ("part_id") REFERENCES "public"."parts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "levels_of_part" ON "levels" USING btree ("part_id");