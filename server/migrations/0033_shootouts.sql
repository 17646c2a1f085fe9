CREATE TABLE "setup_outcomes" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"setup_key" text NOT NULL,
	"field" text NOT NULL,
	"value" text NOT NULL,
	CONSTRAINT "setup_outcomes_job_id_setup_key_field_pk" PRIMARY KEY("job_id","setup_key","field"),
	CONSTRAINT "setup_outcomes_field" CHECK ("setup_outcomes"."field" IN ('noise', 'overrun', 'coldStart', 'fit', 'faultLamp', 'difficulty'))
);
--> statement-breakpoint
CREATE TABLE "fitting_times" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"from_key" text NOT NULL,
	"to_key" text NOT NULL,
	"minutes" double precision NOT NULL,
	CONSTRAINT "fitting_times_job_id_from_key_to_key_pk" PRIMARY KEY("job_id","from_key","to_key")
);
--> statement-breakpoint
CREATE TABLE "job_gears" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid PRIMARY KEY NOT NULL,
	"ratios" double precision[] NOT NULL,
	"final_drive" double precision NOT NULL,
	"circumference_m" double precision NOT NULL,
	"limiter_rpm" double precision NOT NULL,
	"shift_seconds" double precision NOT NULL
);
--> statement-breakpoint
CREATE TABLE "reference_curves" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"name" text NOT NULL,
	"at" text,
	"bay" text NOT NULL,
	"correction" text,
	"first" integer NOT NULL,
	"values" double precision[] NOT NULL,
	CONSTRAINT "reference_curves_job_id_place_pk" PRIMARY KEY("job_id","place")
);
--> statement-breakpoint
CREATE TABLE "use_shares" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"name" text NOT NULL,
	"from_rpm" integer NOT NULL,
	"share" double precision NOT NULL,
	CONSTRAINT "use_shares_job_id_from_rpm_pk" PRIMARY KEY("job_id","from_rpm")
);
--> statement-breakpoint
CREATE TABLE "vehicle_gears" (
	"shop_id" uuid NOT NULL,
	"vehicle_id" uuid PRIMARY KEY NOT NULL,
	"ratios" double precision[] NOT NULL,
	"final_drive" double precision NOT NULL,
	"circumference_m" double precision NOT NULL,
	"limiter_rpm" double precision NOT NULL,
	"shift_seconds" double precision NOT NULL
);
--> statement-breakpoint
ALTER TABLE "setup_changes" DROP CONSTRAINT "setup_changes_kind";--> statement-breakpoint
ALTER TABLE "job_days" DROP CONSTRAINT "job_days_shape";--> statement-breakpoint
ALTER TABLE "shops" ADD COLUMN "currency" text;--> statement-breakpoint
ALTER TABLE "shops" ADD COLUMN "hourly_rate" double precision;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "currency" text;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "hourly_rate" double precision;--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "adapters_cost" double precision;--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "consumables_cost" double precision;--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "tune_cost" double precision;--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "cure" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "added_at" text;--> statement-breakpoint
ALTER TABLE "job_days" ADD COLUMN "read_at_rpm" double precision[];--> statement-breakpoint
ALTER TABLE "setup_outcomes" ADD CONSTRAINT "setup_outcomes_setup_fk" FOREIGN KEY ("job_id","setup_key") REFERENCES "public"."setups"("job_id","setup_key") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "fitting_times" ADD CONSTRAINT "fitting_times_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "job_gears" ADD CONSTRAINT "job_gears_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "reference_curves" ADD CONSTRAINT "reference_curves_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "use_shares" ADD CONSTRAINT "use_shares_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "vehicle_gears" ADD CONSTRAINT "vehicle_gears_vehicle_fk" FOREIGN KEY ("shop_id","vehicle_id") REFERENCES "public"."vehicles"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "setup_changes" ADD CONSTRAINT "setup_changes_kind" CHECK ("setup_changes"."kind" IN ('part-fitted', 'part-removed', 'tune', 'fuel', 'fluid', 'tyre', 'hood', 'fan', 'safeties', 'controller', 'other'));--> statement-breakpoint
ALTER TABLE "job_days" ADD CONSTRAINT "job_days_shape" CHECK ("job_days"."shape" IN ('return', 'middle', 'second', 'twice', 'hold', 'plain', 'own'));--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['setup_outcomes', 'fitting_times', 'job_gears', 'reference_curves', 'use_shares', 'vehicle_gears'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
