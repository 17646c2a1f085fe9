CREATE TABLE "fault_searches" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"complaint" text NOT NULL,
	"words" text NOT NULL,
	"budget_minutes" double precision NOT NULL,
	"opened_at" text NOT NULL,
	"opened_by" text NOT NULL,
	"closed_at" text,
	CONSTRAINT "fault_searches_job_id_place_pk" PRIMARY KEY("job_id","place"),
	CONSTRAINT "fault_searches_complaint_known" CHECK ("fault_searches"."complaint" IN ('reads-low', 'smoke', 'slow-to-boost', 'runs-hot', 'other'))
);
--> statement-breakpoint
CREATE TABLE "search_looks" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"search" integer NOT NULL,
	"place" integer NOT NULL,
	"suspect" text NOT NULL,
	"result" text NOT NULL,
	"minutes" double precision,
	"pull" text,
	"who" text NOT NULL,
	"at" text NOT NULL,
	CONSTRAINT "search_looks_job_id_search_place_pk" PRIMARY KEY("job_id","search","place"),
	CONSTRAINT "search_looks_result" CHECK ("search_looks"."result" IN ('fine', 'found', 'cured'))
);
--> statement-breakpoint
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
ALTER TABLE "job_projections" ADD COLUMN "settled" integer;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "baseline_peak_w" double precision;--> statement-breakpoint
ALTER TABLE "fault_searches" ADD CONSTRAINT "fault_searches_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "search_looks" ADD CONSTRAINT "search_looks_search_fk" FOREIGN KEY ("job_id","search") REFERENCES "public"."fault_searches"("job_id","place") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "search_looks" ADD CONSTRAINT "search_looks_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "part_results" ADD CONSTRAINT "part_results_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "part_shelves" ADD CONSTRAINT "part_shelves_part_fk" FOREIGN KEY ("shop_id","part_id") REFERENCES "public"."parts"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bay_answers" ADD CONSTRAINT "bay_answers_bay_fk" FOREIGN KEY ("shop_id","bay_id") REFERENCES "public"."bays"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "second_readings" ADD CONSTRAINT "second_readings_bay_fk" FOREIGN KEY ("shop_id","bay_id") REFERENCES "public"."bays"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "fault_searches_complaint" ON "fault_searches" USING btree ("shop_id","complaint");--> statement-breakpoint
CREATE INDEX "part_shelves_measure" ON "part_shelves" USING btree ("shop_id","measure");--> statement-breakpoint
CREATE INDEX "bay_answers_bay" ON "bay_answers" USING btree ("shop_id","bay_id","until");--> statement-breakpoint
CREATE INDEX "second_readings_bay" ON "second_readings" USING btree ("shop_id","bay_id","at");--> statement-breakpoint
ALTER TABLE "parts" ADD CONSTRAINT "parts_merged_fk" FOREIGN KEY ("shop_id","merged_into") REFERENCES "public"."parts"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['part_results','part_shelves','bay_answers','second_readings','fault_searches','search_looks'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- What was looked at because a baseline read low becomes a search.
ALTER TABLE suspects_looked NO FORCE ROW LEVEL SECURITY;
--> statement-breakpoint
ALTER TABLE fault_searches NO FORCE ROW LEVEL SECURITY;
--> statement-breakpoint
ALTER TABLE search_looks NO FORCE ROW LEVEL SECURITY;
--> statement-breakpoint
INSERT INTO fault_searches (shop_id, job_id, place, complaint, words, budget_minutes, opened_at, opened_by)
  SELECT DISTINCT ON (job_id) shop_id, job_id, 0, 'reads-low', '', 60, at, who FROM suspects_looked ORDER BY job_id, place;
--> statement-breakpoint
INSERT INTO search_looks (shop_id, job_id, search, place, suspect, result, who, at)
  SELECT shop_id, job_id, 0, place, suspect, result, who, at FROM suspects_looked;
--> statement-breakpoint
ALTER TABLE suspects_looked FORCE ROW LEVEL SECURITY;
--> statement-breakpoint
ALTER TABLE fault_searches FORCE ROW LEVEL SECURITY;
--> statement-breakpoint
ALTER TABLE search_looks FORCE ROW LEVEL SECURITY;
--> statement-breakpoint
-- Worked out anew, with what jobs say of parts.
TRUNCATE job_projections;
