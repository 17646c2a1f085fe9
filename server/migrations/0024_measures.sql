CREATE TABLE "question_measures" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"place" integer NOT NULL,
	"measure" text NOT NULL,
	"channel" text,
	"rpm" double precision,
	"window_from_rpm" double precision,
	"window_to_rpm" double precision,
	"meaningful" double precision NOT NULL,
	CONSTRAINT "question_measures_job_id_n_place_pk" PRIMARY KEY("job_id","n","place")
);
--> statement-breakpoint
ALTER TABLE "bay_tables" DROP CONSTRAINT "bay_tables_noise_class";--> statement-breakpoint
ALTER TABLE "question_measures" ADD CONSTRAINT "question_measures_version_fk" FOREIGN KEY ("job_id","n") REFERENCES "public"."question_versions"("job_id","n") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "question_measures" ADD CONSTRAINT "question_measures_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bay_tables" ADD CONSTRAINT "bay_tables_noise_class" CHECK ("bay_tables"."noise_class" IN ('power', 'bands', 'temperature', 'pressure'));--> statement-breakpoint
DO $$
DECLARE shop record;
BEGIN
  ALTER TABLE question_measures ENABLE ROW LEVEL SECURITY;
  ALTER TABLE question_measures FORCE ROW LEVEL SECURITY;
  CREATE POLICY own_shop ON question_measures USING (shop_id = nullif(current_setting('prandel.shop', true), '')::uuid);
  -- The one measure that a question had until now; start temperatures are those of their channels.
  PERFORM set_config('prandel.every_shop', 'on', true);
  FOR shop IN SELECT shop_id FROM shops LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    INSERT INTO question_measures (shop_id, job_id, n, place, measure, channel, meaningful)
      SELECT shop_id, job_id, n, 0,
        CASE WHEN measure LIKE '%StartTemperature' THEN 'start' ELSE measure END,
        CASE measure
          WHEN 'intakeStartTemperature' THEN 'intake_c'
          WHEN 'coolantStartTemperature' THEN 'coolant_c'
          WHEN 'oilStartTemperature' THEN 'oil_c'
        END,
        meaningful_gain_percent
      FROM question_versions;
  END LOOP;
END $$;--> statement-breakpoint
ALTER TABLE "question_versions" DROP COLUMN "measure";--> statement-breakpoint
ALTER TABLE "question_versions" DROP COLUMN "meaningful_gain_percent";
