CREATE TABLE "bay_runs" (
	"bay_id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"run" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "bays" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"shop_id" uuid NOT NULL,
	"label" text NOT NULL,
	"paper" jsonb NOT NULL,
	"instruments" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "evidence" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"at" text NOT NULL,
	"person" text NOT NULL,
	"kind" text NOT NULL,
	"what" text NOT NULL,
	"detail" text NOT NULL,
	"hash" text NOT NULL,
	CONSTRAINT "evidence_job_id_n_pk" PRIMARY KEY("job_id","n")
);
--> statement-breakpoint
CREATE TABLE "recording_chunks" (
	"shop_id" uuid NOT NULL,
	"recording_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"samples" "bytea" NOT NULL,
	CONSTRAINT "recording_chunks_recording_id_n_pk" PRIMARY KEY("recording_id","n")
);
--> statement-breakpoint
CREATE TABLE "recordings" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"shop_id" uuid NOT NULL,
	"bay_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"paper" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "records" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"shop_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"label" text NOT NULL,
	"paper" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL
);
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "day" jsonb;--> statement-breakpoint
ALTER TABLE "bay_runs" ADD CONSTRAINT "bay_runs_bay_id_bays_id_fk" FOREIGN KEY ("bay_id") REFERENCES "public"."bays"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bay_runs" ADD CONSTRAINT "bay_runs_job_id_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "evidence" ADD CONSTRAINT "evidence_job_id_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "recording_chunks" ADD CONSTRAINT "recording_chunks_recording_id_recordings_id_fk" FOREIGN KEY ("recording_id") REFERENCES "public"."recordings"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "recordings" ADD CONSTRAINT "recordings_bay_id_bays_id_fk" FOREIGN KEY ("bay_id") REFERENCES "public"."bays"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "recordings" ADD CONSTRAINT "recordings_job_id_jobs_id_fk" FOREIGN KEY ("job_id") REFERENCES "public"."jobs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "bays_label" ON "bays" USING btree ("shop_id","label");--> statement-breakpoint
CREATE UNIQUE INDEX "records_label" ON "records" USING btree ("shop_id","kind","label");