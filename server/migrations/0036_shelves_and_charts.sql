CREATE TABLE "part_results" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"setup_key" text NOT NULL,
	"against_key" text NOT NULL,
	"alone" boolean NOT NULL,
	"changes" text NOT NULL,
	"measure" text NOT NULL,
	"verdict" text NOT NULL,
	"estimate" double precision,
	"standard_error" double precision,
	CONSTRAINT "part_results_job_id_place_pk" PRIMARY KEY("job_id","place")
);
--> statement-breakpoint
CREATE TABLE "part_shelves" (
	"shop_id" uuid NOT NULL,
	"part_id" uuid NOT NULL,
	"measure" text NOT NULL,
	"job_ids" uuid[] NOT NULL,
	"cars" integer NOT NULL,
	"estimate" double precision,
	"low" double precision,
	"high" double precision,
	"next_low" double precision,
	"next_high" double precision,
	"spread" double precision,
	CONSTRAINT "part_shelves_part_id_measure_pk" PRIMARY KEY("part_id","measure")
);
--> statement-breakpoint
CREATE TABLE "bay_answers" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"bay_id" uuid NOT NULL,
	"chart" text NOT NULL,
	"answer" text NOT NULL,
	"words" text NOT NULL,
	"who" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"until" timestamp with time zone NOT NULL,
	CONSTRAINT "bay_answers_shop_id" UNIQUE("shop_id","id"),
	CONSTRAINT "bay_answers_chart" CHECK ("bay_answers"."chart" IN ('reference', 'return', 'second')),
	CONSTRAINT "bay_answers_answer" CHECK ("bay_answers"."answer" IN ('calibration', 'sensor', 'tyre', 'nothing'))
);
--> statement-breakpoint
CREATE TABLE "second_readings" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"bay_id" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"who" text NOT NULL,
	"source" text NOT NULL,
	"own_hpa" double precision NOT NULL,
	"other_hpa" double precision NOT NULL,
	CONSTRAINT "second_readings_shop_id" UNIQUE("shop_id","id"),
	CONSTRAINT "second_readings_source" CHECK ("second_readings"."source" IN ('instrument', 'airport'))
);
--> statement-breakpoint
ALTER TABLE "shops" ADD COLUMN "demo_made" integer;--> statement-breakpoint
ALTER TABLE "shops" ADD COLUMN "demo_of" integer;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "promised_percent" double precision;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "merged_into" uuid;--> statement-breakpoint
ALTER TABLE "vehicles" ADD COLUMN "reference" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "level" double precision;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "squares" double precision DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "degrees" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "returned" double precision;--> statement-breakpoint
ALTER TABLE "part_results" ADD CONSTRAINT "part_results_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "part_shelves" ADD CONSTRAINT "part_shelves_part_fk" FOREIGN KEY ("shop_id","part_id") REFERENCES "public"."parts"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bay_answers" ADD CONSTRAINT "bay_answers_bay_fk" FOREIGN KEY ("shop_id","bay_id") REFERENCES "public"."bays"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "second_readings" ADD CONSTRAINT "second_readings_bay_fk" FOREIGN KEY ("shop_id","bay_id") REFERENCES "public"."bays"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "part_shelves_measure" ON "part_shelves" USING btree ("shop_id","measure");--> statement-breakpoint
CREATE INDEX "bay_answers_bay" ON "bay_answers" USING btree ("shop_id","bay_id","until");--> statement-breakpoint
CREATE INDEX "second_readings_bay" ON "second_readings" USING btree ("shop_id","bay_id","at");--> statement-breakpoint
ALTER TABLE "parts" ADD CONSTRAINT "parts_merged_fk" FOREIGN KEY ("shop_id","merged_into") REFERENCES "public"."parts"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['part_results','part_shelves','bay_answers','second_readings'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- Worked out anew, with what jobs say of parts.
TRUNCATE job_projections;
