CREATE TABLE "baseline_peaks" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"correction" text NOT NULL,
	"averaging_width_rpm" double precision NOT NULL,
	"job_version" integer NOT NULL,
	"engine_version" integer NOT NULL,
	"peak_w" double precision,
	CONSTRAINT "baseline_peaks_job_id_correction_averaging_width_rpm_pk" PRIMARY KEY("job_id","correction","averaging_width_rpm")
);
--> statement-breakpoint
CREATE TABLE "job_projections" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid PRIMARY KEY NOT NULL,
	"job_version" integer NOT NULL,
	"engine_version" integer NOT NULL,
	"problem" text,
	"window_from_rpm" double precision,
	"window_to_rpm" double precision,
	"repeats" jsonb,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "verdict_projections" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"candidate" text NOT NULL,
	"measure" text NOT NULL,
	"verdict" text NOT NULL,
	"unit" text,
	"estimate" double precision,
	"low" double precision,
	"high" double precision,
	"smaller_than_matters" boolean NOT NULL,
	CONSTRAINT "verdict_projections_job_id_place_pk" PRIMARY KEY("job_id","place")
);
--> statement-breakpoint
ALTER TABLE "baseline_peaks" ADD CONSTRAINT "baseline_peaks_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "job_projections" ADD CONSTRAINT "job_projections_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "verdict_projections" ADD CONSTRAINT "verdict_projections_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['job_projections','verdict_projections','baseline_peaks'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
