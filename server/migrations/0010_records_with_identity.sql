-- Text of unknown make as an instant; null where it is none.
CREATE FUNCTION instant_of(words text) RETURNS timestamp with time zone LANGUAGE plpgsql STABLE AS $$
BEGIN
  RETURN words::timestamp with time zone;
EXCEPTION WHEN OTHERS THEN
  RETURN NULL;
END $$;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "opened_at_text" text;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "started_at_text" text;
--> statement-breakpoint
-- What a package wrote in another way than this program does is kept as it was written.
DO $$
DECLARE shop record;
BEGIN
  FOR shop IN SELECT shop_id FROM installation LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    UPDATE jobs SET opened_at_text = opened_at WHERE opened_at IS DISTINCT FROM
      to_char(instant_of(opened_at) AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"');
    UPDATE pulls SET started_at_text = started_at WHERE started_at IS DISTINCT FROM
      to_char(instant_of(started_at) AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"');
  END LOOP;
END $$;
--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "opened_at" SET DATA TYPE timestamp with time zone USING instant_of("opened_at");
--> statement-breakpoint
ALTER TABLE "pulls" ALTER COLUMN "started_at" SET DATA TYPE timestamp with time zone USING instant_of("started_at");
--> statement-breakpoint
CREATE TABLE "customers" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"name" text NOT NULL,
	"contact" text DEFAULT '' NOT NULL,
	"notes" text DEFAULT '' NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "customers_shop_id" UNIQUE("shop_id","id")
);
--> statement-breakpoint
CREATE TABLE "house_methods" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"name" text NOT NULL,
	"version_id" uuid NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "house_methods_shop_id" UNIQUE("shop_id","id")
);
--> statement-breakpoint
CREATE TABLE "method_versions" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"name" text,
	"correction" text NOT NULL,
	"averaging_width_rpm" double precision NOT NULL,
	"settle_pulls" double precision NOT NULL,
	"tolerances" jsonb NOT NULL,
	"schools" jsonb,
	"ci_turbocharged" boolean,
	"ci_fuel_mg_per_litre_cycle" double precision,
	"ci_boost_pressure_ratio" double precision,
	"digest" text NOT NULL,
	CONSTRAINT "method_versions_shop_id" UNIQUE("shop_id","id"),
	CONSTRAINT "method_versions_digest" UNIQUE("shop_id","digest")
);
--> statement-breakpoint
CREATE TABLE "model_card_versions" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"label" text NOT NULL,
	"gear" text,
	"reads_intake" boolean NOT NULL,
	"reads_coolant" boolean NOT NULL,
	"reads_oil" boolean NOT NULL,
	"safe_from_rpm" double precision,
	"safe_to_rpm" double precision,
	"settle_pulls" double precision,
	"notes" text NOT NULL,
	"baselines_seen_w" double precision[],
	"charge_sensor" text,
	"charge_warn_c" double precision,
	"charge_stop_c" double precision,
	"digest" text NOT NULL,
	CONSTRAINT "model_card_versions_shop_id" UNIQUE("shop_id","id"),
	CONSTRAINT "model_card_versions_digest" UNIQUE("shop_id","digest"),
	CONSTRAINT "model_card_versions_sensor" CHECK ("model_card_versions"."charge_sensor" IN ('after-cooler', 'before-cooler'))
);
--> statement-breakpoint
CREATE TABLE "model_cards" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"model_id" uuid,
	"label" text NOT NULL,
	"version_id" uuid NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "model_cards_shop_id" UNIQUE("shop_id","id")
);
--> statement-breakpoint
CREATE TABLE "parts" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"name" text NOT NULL,
	"number" text DEFAULT '' NOT NULL,
	"kind" text DEFAULT '' NOT NULL,
	"price" double precision,
	"currency" text DEFAULT '' NOT NULL,
	"hours" double precision,
	"supplier" text DEFAULT '' NOT NULL,
	"adapters" text DEFAULT '' NOT NULL,
	"closed_course_only" boolean DEFAULT false NOT NULL,
	"notes" text DEFAULT '' NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "parts_shop_id" UNIQUE("shop_id","id")
);
--> statement-breakpoint
CREATE TABLE "vehicle_models" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"make" text DEFAULT '' NOT NULL,
	"name" text NOT NULL,
	"engine" text DEFAULT '' NOT NULL,
	"gearbox" text DEFAULT '' NOT NULL,
	CONSTRAINT "vehicle_models_shop_id" UNIQUE("shop_id","id")
);
--> statement-breakpoint
CREATE TABLE "vehicles" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"model_id" uuid,
	"customer_id" uuid,
	"card_id" uuid,
	"label" text NOT NULL,
	"registration" text DEFAULT '' NOT NULL,
	"vin" text DEFAULT '' NOT NULL,
	"driven_wheels" text,
	"aspiration" text,
	"transmission" text,
	"mass_kg" double precision,
	"engine_to_roller_ratio" double precision,
	"heat_sensitive" boolean DEFAULT false NOT NULL,
	"fuel" text DEFAULT '' NOT NULL,
	"tune" text DEFAULT '' NOT NULL,
	"parts_fitted" text DEFAULT '' NOT NULL,
	"tyres" text DEFAULT '' NOT NULL,
	"oil" text DEFAULT '' NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "vehicles_shop_id" UNIQUE("shop_id","id"),
	CONSTRAINT "vehicles_driven_wheels" CHECK ("vehicles"."driven_wheels" IN ('front', 'rear', 'all', 'motorcycle')),
	CONSTRAINT "vehicles_aspiration" CHECK ("vehicles"."aspiration" IN ('natural', 'turbo', 'supercharged')),
	CONSTRAINT "vehicles_transmission" CHECK ("vehicles"."transmission" IN ('manual', 'automatic', 'cvt'))
);
--> statement-breakpoint
CREATE TABLE "bay_calibrations" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"bay_id" uuid,
	"bay_label" text NOT NULL,
	"kind" text,
	"since" text,
	"roller_inertia_kg_m2" double precision,
	"loss_c0_nm" double precision,
	"loss_c1_nm_s" double precision,
	"loss_c2_nm_s2" double precision,
	"readout_scale" double precision NOT NULL,
	"elevation_m" double precision,
	"digest" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "bay_calibrations_shop_id" UNIQUE("shop_id","id"),
	CONSTRAINT "bay_calibrations_digest" UNIQUE("shop_id","digest"),
	CONSTRAINT "bay_calibrations_kind" CHECK ("bay_calibrations"."kind" IN ('inertia', 'braked', 'linked', 'split', 'hub'))
);
--> statement-breakpoint
CREATE TABLE "bay_instruments" (
	"shop_id" uuid NOT NULL,
	"bay_id" uuid NOT NULL,
	"kind" text NOT NULL,
	"host" text NOT NULL,
	"port" integer NOT NULL,
	CONSTRAINT "bay_instruments_bay_id_kind_pk" PRIMARY KEY("bay_id","kind")
);
--> statement-breakpoint
CREATE TABLE "abort_limits" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"channel" text NOT NULL,
	"warn" double precision,
	"stop" double precision NOT NULL,
	"side" text NOT NULL,
	CONSTRAINT "abort_limits_job_id_place_pk" PRIMARY KEY("job_id","place"),
	CONSTRAINT "abort_limits_side" CHECK ("abort_limits"."side" IN ('above', 'below'))
);
--> statement-breakpoint
CREATE TABLE "fitting_photos" (
	"shop_id" uuid NOT NULL,
	"fitting_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"path" text NOT NULL,
	"name" text NOT NULL,
	"sha256" text NOT NULL,
	"added_at" text NOT NULL,
	CONSTRAINT "fitting_photos_fitting_id_place_pk" PRIMARY KEY("fitting_id","place")
);
--> statement-breakpoint
CREATE TABLE "fittings" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"setup_key" text NOT NULL,
	"who" text NOT NULL,
	"started_at" text NOT NULL,
	"stopped_at" text,
	"changed" text NOT NULL,
	"disturbed" text NOT NULL,
	"parts" text NOT NULL,
	"cost" double precision,
	"notes" text NOT NULL,
	CONSTRAINT "fittings_shop_id" UNIQUE("shop_id","id")
);
--> statement-breakpoint
CREATE TABLE "intake_notes" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"subject" text NOT NULL,
	"value" text NOT NULL,
	CONSTRAINT "intake_notes_job_id_subject_pk" PRIMARY KEY("job_id","subject")
);
--> statement-breakpoint
CREATE TABLE "job_days" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid PRIMARY KEY NOT NULL,
	"customer" text,
	"claim" text,
	"cannot_be_undone" text,
	"card_id" uuid,
	"card_version_id" uuid NOT NULL,
	"shape" text NOT NULL,
	"start_at" text,
	"minutes_per_pull" double precision NOT NULL,
	"fitting_minutes" double precision NOT NULL,
	"open_from_min" double precision NOT NULL,
	"open_until_min" double precision NOT NULL,
	"forecast_low_c" double precision,
	"forecast_high_c" double precision,
	"setup_order" text NOT NULL,
	"drawn_seed" bigint,
	"drawn_candidates" text[],
	"extended_at" text,
	"extended_declared" boolean,
	"rest" jsonb DEFAULT '{}'::jsonb NOT NULL,
	CONSTRAINT "job_days_shape" CHECK ("job_days"."shape" IN ('return', 'middle', 'twice', 'hold', 'plain')),
	CONSTRAINT "job_days_order" CHECK ("job_days"."setup_order" IN ('fixed', 'randomised'))
);
--> statement-breakpoint
CREATE TABLE "plan_steps" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"part" text NOT NULL,
	"place" integer NOT NULL,
	"setup_key" text NOT NULL,
	"settle" double precision NOT NULL,
	"counted" double precision NOT NULL,
	CONSTRAINT "plan_steps_job_id_part_place_pk" PRIMARY KEY("job_id","part","place"),
	CONSTRAINT "plan_steps_part" CHECK ("plan_steps"."part" IN ('plan', 'extension'))
);
--> statement-breakpoint
CREATE TABLE "question_amendments" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"at" text NOT NULL,
	"who" text NOT NULL,
	"reason" text NOT NULL,
	"what" text NOT NULL,
	CONSTRAINT "question_amendments_job_id_place_pk" PRIMARY KEY("job_id","place")
);
--> statement-breakpoint
CREATE TABLE "question_versions" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"text" text NOT NULL,
	"baseline_setup" text NOT NULL,
	"candidate_setups" text[] NOT NULL,
	"measure" text NOT NULL,
	"window_from_rpm" double precision,
	"window_to_rpm" double precision,
	"meaningful_gain_percent" double precision NOT NULL,
	"confidence" double precision NOT NULL,
	"part_changes_intake_temperature" boolean NOT NULL,
	"extension" text,
	"since" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "question_versions_job_id_n_pk" PRIMARY KEY("job_id","n"),
	CONSTRAINT "question_versions_extension" CHECK ("question_versions"."extension" IN ('declared', 'undeclared'))
);
--> statement-breakpoint
CREATE TABLE "rounds" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"setup_key" text NOT NULL,
	"n" integer NOT NULL,
	"closed_early" text NOT NULL,
	"place" integer NOT NULL,
	CONSTRAINT "rounds_job_id_setup_key_n_pk" PRIMARY KEY("job_id","setup_key","n")
);
--> statement-breakpoint
CREATE TABLE "setup_changes" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"setup_key" text NOT NULL,
	"place" integer NOT NULL,
	"kind" text NOT NULL,
	"part_id" uuid,
	"words" text NOT NULL,
	CONSTRAINT "setup_changes_job_id_setup_key_place_pk" PRIMARY KEY("job_id","setup_key","place"),
	CONSTRAINT "setup_changes_kind" CHECK ("setup_changes"."kind" IN ('part-fitted', 'part-removed', 'tune', 'fuel', 'other'))
);
--> statement-breakpoint
CREATE TABLE "setup_state" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"setup_key" text NOT NULL,
	"place" integer NOT NULL,
	"field" text NOT NULL,
	"value" text NOT NULL,
	CONSTRAINT "setup_state_job_id_setup_key_field_pk" PRIMARY KEY("job_id","setup_key","field")
);
--> statement-breakpoint
CREATE TABLE "suspects_looked" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"suspect" text NOT NULL,
	"result" text NOT NULL,
	"who" text NOT NULL,
	"at" text NOT NULL,
	CONSTRAINT "suspects_looked_job_id_place_pk" PRIMARY KEY("job_id","place"),
	CONSTRAINT "suspects_looked_result" CHECK ("suspects_looked"."result" IN ('fine', 'found'))
);
--> statement-breakpoint
CREATE TABLE "weather_readings" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"at" text NOT NULL,
	"pressure_hpa" double precision,
	"air_c" double precision,
	"relative_humidity" double precision,
	CONSTRAINT "weather_readings_job_id_place_pk" PRIMARY KEY("job_id","place")
);
--> statement-breakpoint
CREATE TABLE "pull_marks" (
	"shop_id" uuid NOT NULL,
	"pull_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"words" text NOT NULL,
	CONSTRAINT "pull_marks_pull_id_place_pk" PRIMARY KEY("pull_id","place")
);
--> statement-breakpoint
ALTER TABLE "bay_runs" DROP CONSTRAINT "bay_runs_bay_id_bays_id_fk";
--> statement-breakpoint
ALTER TABLE "bay_runs" DROP CONSTRAINT "bay_runs_job_id_jobs_id_fk";
--> statement-breakpoint
ALTER TABLE "channels" DROP CONSTRAINT "channels_pull_id_pulls_id_fk";
--> statement-breakpoint
ALTER TABLE "evidence" DROP CONSTRAINT "evidence_job_id_jobs_id_fk";
--> statement-breakpoint
ALTER TABLE "file_chunks" DROP CONSTRAINT "file_chunks_file_id_files_id_fk";
--> statement-breakpoint
ALTER TABLE "files" DROP CONSTRAINT "files_job_id_jobs_id_fk";
--> statement-breakpoint
ALTER TABLE "pulls" DROP CONSTRAINT "pulls_job_id_jobs_id_fk";
--> statement-breakpoint
ALTER TABLE "recording_chunks" DROP CONSTRAINT "recording_chunks_recording_id_recordings_id_fk";
--> statement-breakpoint
ALTER TABLE "recordings" DROP CONSTRAINT "recordings_bay_id_bays_id_fk";
--> statement-breakpoint
ALTER TABLE "recordings" DROP CONSTRAINT "recordings_job_id_jobs_id_fk";
--> statement-breakpoint
ALTER TABLE "setups" DROP CONSTRAINT "setups_job_id_jobs_id_fk";
--> statement-breakpoint
ALTER TABLE "bays" ALTER COLUMN "id" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "files" ALTER COLUMN "id" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "id" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "people" ALTER COLUMN "id" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "pulls" ALTER COLUMN "id" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "recordings" ALTER COLUMN "id" DROP DEFAULT;
--> statement-breakpoint
ALTER TABLE "bays" ADD COLUMN "calibration_id" uuid;
--> statement-breakpoint
ALTER TABLE "bays" ADD COLUMN "registers" jsonb;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "customer_id" uuid;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "vehicle_id" uuid;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "calibration_id" uuid;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "method_version_id" uuid;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "vehicle_label" text;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "driven_wheels" text;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "aspiration" text;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "transmission" text;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "mass_kg" double precision;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "engine_to_roller_ratio" double precision;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "heat_sensitive" boolean;
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "verdict_constants" jsonb DEFAULT '{}'::jsonb NOT NULL;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "round" double precision;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "position" double precision;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "gear" text;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "pressure_hpa" double precision;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "air_c" double precision;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "relative_humidity" double precision;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "intake_start_c" double precision;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "coolant_start_c" double precision;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "oil_start_c" double precision;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "numbers" text;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "numbers_standard" text;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "numbers_factor" double precision;
--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "averaging_rpm" double precision;
--> statement-breakpoint
ALTER TABLE "recordings" ADD COLUMN "draft" jsonb;
--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "label" text;
--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "parent_key" text;
--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "returns_to_key" text;
--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "remounted" boolean;
--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "closed_course_only" boolean;
--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "part_cost" double precision;
--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "labour_hours" double precision;
--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "currency" text;
--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "supplier" text;
--> statement-breakpoint
ALTER TABLE "bays" ADD CONSTRAINT "bays_shop_id" UNIQUE("shop_id","id");
--> statement-breakpoint
ALTER TABLE "files" ADD CONSTRAINT "files_shop_id" UNIQUE("shop_id","id");
--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_shop_id" UNIQUE("shop_id","id");
--> statement-breakpoint
ALTER TABLE "people" ADD CONSTRAINT "people_shop_id" UNIQUE("shop_id","id");
--> statement-breakpoint
ALTER TABLE "pulls" ADD CONSTRAINT "pulls_shop_id" UNIQUE("shop_id","id");
--> statement-breakpoint
ALTER TABLE "recordings" ADD CONSTRAINT "recordings_shop_id" UNIQUE("shop_id","id");
