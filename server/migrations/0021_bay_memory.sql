CREATE TABLE "bay_tables" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"noise_class" text NOT NULL,
	"numbers" "bytea" NOT NULL,
	CONSTRAINT "bay_tables_job_id_place_pk" PRIMARY KEY("job_id","place"),
	CONSTRAINT "bay_tables_noise_class" CHECK ("bay_tables"."noise_class" IN ('power', 'bands', 'temperature'))
);
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "bay_prior" jsonb;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "return_checks" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "minutes_per_pull" double precision;--> statement-breakpoint
ALTER TABLE "bay_tables" ADD CONSTRAINT "bay_tables_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "job_projections" DROP COLUMN "repeats";--> statement-breakpoint
DO $$
BEGIN
  ALTER TABLE bay_tables ENABLE ROW LEVEL SECURITY;
  ALTER TABLE bay_tables FORCE ROW LEVEL SECURITY;
  CREATE POLICY own_shop ON bay_tables USING (shop_id = nullif(current_setting('prandel.shop', true), '')::uuid);
END $$;
