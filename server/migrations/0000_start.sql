CREATE TABLE "actions" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"person" text NOT NULL,
	"what" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "channels" (
	"shop_id" uuid NOT NULL,
	"pull_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"name" text NOT NULL,
	"samples" "bytea" NOT NULL,
	CONSTRAINT "channels_pull_id_place_pk" PRIMARY KEY("pull_id","place")
);
--> statement-breakpoint
CREATE TABLE "files" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"sha256" text NOT NULL,
	"content" "bytea" NOT NULL,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "installation" (
	"shop_id" uuid PRIMARY KEY NOT NULL,
	"started_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "jobs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"shop_id" uuid NOT NULL,
	"number" text NOT NULL,
	"title" text NOT NULL,
	"opened_at" text,
	"time_zone" text,
	"vehicle" jsonb NOT NULL,
	"bay" jsonb NOT NULL,
	"question" jsonb NOT NULL,
	"method" jsonb NOT NULL,
	"weather" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"extras" jsonb,
	"version" integer DEFAULT 1 NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "mappings" (
	"shop_id" uuid NOT NULL,
	"signature" text NOT NULL,
	"columns" jsonb NOT NULL,
	CONSTRAINT "mappings_shop_id_signature_pk" PRIMARY KEY("shop_id","signature")
);
--> statement-breakpoint
CREATE TABLE "people" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"shop_id" uuid NOT NULL,
	"name" text NOT NULL,
	"email" text NOT NULL,
	"password_hash" text NOT NULL,
	"units" jsonb DEFAULT '{}'::jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "pulls" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"pull_key" text NOT NULL,
	"setup_key" text NOT NULL,
	"place" integer NOT NULL,
	"status" text NOT NULL,
	"reason" text,
	"started_at" text,
	"paper" jsonb NOT NULL,
	"file_id" uuid
);
--> statement-breakpoint
CREATE TABLE "sessions" (
	"token_hash" text PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"person_id" uuid NOT NULL,
	"expires_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "setups" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"setup_key" text NOT NULL,
	"place" integer NOT NULL,
	"paper" jsonb NOT NULL,
	CONSTRAINT "setups_job_id_setup_key_pk" PRIMARY KEY("job_id","setup_key")
);
--> statement-breakpoint
CREATE TABLE "shops" (
	"shop_id" uuid PRIMARY KEY NOT NULL,
	"name" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "actions" ADD CONSTRAINT "actions_job_id_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "channels" ADD CONSTRAINT "channels_pull_id_pulls_id_fk" FOREIGN KEY ("pull_id") REFERENCES "public"."pulls"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "files" ADD CONSTRAINT "files_job_id_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pulls" ADD CONSTRAINT "pulls_job_id_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "setups" ADD CONSTRAINT "setups_job_id_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "actions_job" ON "actions" USING btree ("job_id","at");--> statement-breakpoint
CREATE INDEX "files_job" ON "files" USING btree ("job_id","kind");--> statement-breakpoint
CREATE INDEX "jobs_newest" ON "jobs" USING btree ("shop_id","updated_at","id");--> statement-breakpoint
CREATE UNIQUE INDEX "people_email" ON "people" USING btree ("email");--> statement-breakpoint
CREATE UNIQUE INDEX "pulls_key" ON "pulls" USING btree ("job_id","pull_key");