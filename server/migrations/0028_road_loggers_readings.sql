CREATE TABLE "road_cars" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid PRIMARY KEY NOT NULL,
	"mass_kg" double precision NOT NULL,
	"overall_ratio" double precision NOT NULL,
	"tyre_radius_m" double precision NOT NULL,
	"drag_area_m2" double precision,
	"rolling" double precision NOT NULL
);
--> statement-breakpoint
CREATE TABLE "road_passes" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"setup_key" text NOT NULL,
	"at" text,
	"direction" text NOT NULL,
	"from_km_h" double precision NOT NULL,
	"to_km_h" double precision NOT NULL,
	"seconds" double precision NOT NULL,
	CONSTRAINT "road_passes_job_id_place_pk" PRIMARY KEY("job_id","place")
);
--> statement-breakpoint
CREATE TABLE "hand_readings" (
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"place" integer NOT NULL,
	"pull_key" text NOT NULL,
	"channel" text NOT NULL,
	"moment" text NOT NULL,
	"value" double precision NOT NULL,
	CONSTRAINT "hand_readings_job_id_place_pk" PRIMARY KEY("job_id","place"),
	CONSTRAINT "hand_readings_moment" CHECK ("hand_readings"."moment" IN ('start', 'peak', 'end'))
);
--> statement-breakpoint
CREATE TABLE "loggers" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"file_id" uuid NOT NULL,
	"name" text NOT NULL,
	"laid_by" text NOT NULL,
	"offset_s" double precision NOT NULL,
	"rate_ppm" double precision,
	"residual" double precision,
	"correlation" double precision,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "loggers_shop_id" UNIQUE("shop_id","id"),
	CONSTRAINT "loggers_laid_by" CHECK ("loggers"."laid_by" IN ('engine', 'roller', 'road', 'throttle', 'hand'))
);
--> statement-breakpoint
ALTER TABLE "question_measures" ADD COLUMN "from_km_h" double precision;--> statement-breakpoint
ALTER TABLE "question_measures" ADD COLUMN "to_km_h" double precision;--> statement-breakpoint
ALTER TABLE "channels" ADD COLUMN "logger_id" uuid;--> statement-breakpoint
ALTER TABLE "road_cars" ADD CONSTRAINT "road_cars_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "road_passes" ADD CONSTRAINT "road_passes_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "hand_readings" ADD CONSTRAINT "hand_readings_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "loggers" ADD CONSTRAINT "loggers_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "loggers" ADD CONSTRAINT "loggers_file_fk" FOREIGN KEY ("shop_id","file_id") REFERENCES "public"."files"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "channels" ADD CONSTRAINT "channels_logger_fk" FOREIGN KEY ("shop_id","logger_id") REFERENCES "public"."loggers"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "channels_logger" ON "channels" USING btree ("logger_id");--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['road_cars', 'road_passes', 'hand_readings', 'loggers'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
