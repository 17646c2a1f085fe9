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
ALTER TABLE "shops" ADD COLUMN "demo_made" integer;--> statement-breakpoint
ALTER TABLE "shops" ADD COLUMN "demo_of" integer;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "promised_percent" double precision;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "merged_into" uuid;--> statement-breakpoint
ALTER TABLE "part_results" ADD CONSTRAINT "part_results_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "part_shelves" ADD CONSTRAINT "part_shelves_part_fk" FOREIGN KEY ("shop_id","part_id") REFERENCES "public"."parts"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "part_shelves_measure" ON "part_shelves" USING btree ("shop_id","measure");--> statement-breakpoint
ALTER TABLE "parts" ADD CONSTRAINT "parts_merged_fk" FOREIGN KEY ("shop_id","merged_into") REFERENCES "public"."parts"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['part_results','part_shelves'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- Worked out anew, with what jobs say of parts.
TRUNCATE job_projections;
