CREATE TABLE "exemptions" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"of" text NOT NULL,
	"things" jsonb NOT NULL,
	"amount" double precision,
	"reason" text NOT NULL,
	CONSTRAINT "exemptions_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
CREATE TABLE "limits" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"of" text NOT NULL,
	"off" boolean NOT NULL,
	"values" jsonb NOT NULL,
	CONSTRAINT "limits_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
CREATE TABLE "measures" (
	"level_id" uuid NOT NULL,
	"id" uuid NOT NULL,
	"name" text NOT NULL,
	"sort_order" double precision NOT NULL,
	"hidden" boolean NOT NULL,
	"kind" text NOT NULL,
	"ends" jsonb NOT NULL,
	"sides" jsonb NOT NULL,
	"connected" boolean NOT NULL,
	CONSTRAINT "measures_level_id_id_pk" PRIMARY KEY("level_id","id")
);
--> statement-breakpoint
ALTER TABLE "exemptions" ADD CONSTRAINT "exemptions_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "limits" ADD CONSTRAINT "limits_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "measures" ADD CONSTRAINT "measures_level_id_levels_id_fk" FOREIGN KEY ("level_id") REFERENCES "public"."levels"("id") ON DELETE cascade ON UPDATE no action;