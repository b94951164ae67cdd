CREATE TABLE "ended_sessions" (
	"id" text PRIMARY KEY NOT NULL,
	"ended_at" timestamp with time zone DEFAULT now() NOT NULL
);
