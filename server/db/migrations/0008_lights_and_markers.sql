CREATE TABLE "skies" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"of" text NOT NULL,
	"color" text NOT NULL,
	"ground" text NOT NULL,
	"ambient" double precision NOT NULL,
	"exposure" double precision NOT NULL,
	CONSTRAINT "skies_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "lamps" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "settles_as" text DEFAULT 'hull' NOT NULL;--> statement-breakpoint
ALTER TABLE "skies" ADD CONSTRAINT "skies_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "parts" ADD CONSTRAINT "parts_settles_as_known" CHECK ("parts"."settles_as" in ('hull', 'box'));--> statement-breakpoint
UPDATE "placements" SET "own" = '{"filmWidth":36,"aspect":1.7777777777777777,"near":0.1,"far":1000,"aim":null,"cut":null}'::jsonb || "own" WHERE "kind" = 'camera';--> statement-breakpoint
UPDATE "placements" SET "own" = '{"temperature":null,"innerCone":24,"outerCone":36,"width":1,"height":0.5,"shadow":false,"on":true,"when":"always","aim":null,"place":null}'::jsonb || "own" WHERE "kind" = 'light';--> statement-breakpoint
UPDATE "placements" SET "own" = '{"tags":[],"fields":[]}'::jsonb || "own" || CASE "own"->>'marker' WHEN 'volume' THEN '{"shape":"box","color":"#0e6e6e"}'::jsonb WHEN 'note' THEN '{"arrow":null}'::jsonb ELSE '{}'::jsonb END WHERE "kind" = 'marker';--> statement-breakpoint
INSERT INTO "placements" ("level_id", "id", "parent_id", "sort_order", "name", "kind", "translation_x", "translation_y", "translation_z", "rotation_x", "rotation_y", "rotation_z", "rotation_w", "scale_x", "scale_y", "scale_z", "pivot_x", "pivot_y", "pivot_z", "hidden", "locked", "own")
SELECT m."level_id", m."id", null, 1000000 + m."sort_order", m."name", 'marker', (f->>0)::float8, (f->>1)::float8, (f->>2)::float8, 0, 0, 0, 1, 1, 1, 1, 0, 0, 0, m."hidden", false,
  jsonb_build_object('marker', 'walk', 'text', '', 'tags', '[]'::jsonb, 'fields', '[]'::jsonb, 'width', 0.9, 'points',
    (SELECT jsonb_agg(jsonb_build_array((e->'at'->>0)::float8 - (f->>0)::float8, (e->'at'->>1)::float8 - (f->>1)::float8, (e->'at'->>2)::float8 - (f->>2)::float8) ORDER BY n) FROM jsonb_array_elements(m."ends") WITH ORDINALITY AS a(e, n)))
FROM (SELECT *, "ends"->0->'at' AS f FROM "measures" WHERE "kind" = 'walk') m;--> statement-breakpoint
UPDATE "levels" SET "placement_count" = "placement_count" + (SELECT count(*) FROM "measures" WHERE "kind" = 'walk' AND "level_id" = "levels"."id") WHERE EXISTS (SELECT 1 FROM "measures" WHERE "kind" = 'walk' AND "level_id" = "levels"."id");--> statement-breakpoint
DELETE FROM "measures" WHERE "kind" = 'walk';
