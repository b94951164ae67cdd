CREATE TABLE "relations" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"held" uuid NOT NULL,
	"point" jsonb NOT NULL,
	"holders" jsonb NOT NULL,
	"rule" jsonb NOT NULL,
	CONSTRAINT "relations_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
ALTER TABLE "relations" ADD CONSTRAINT "relations_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;