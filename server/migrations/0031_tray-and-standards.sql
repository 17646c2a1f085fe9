CREATE TABLE "own_standards" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"reference_c" double precision,
	"reference_hpa" double precision,
	"pressure" text,
	"mechanical_efficiency" double precision,
	"factor" double precision,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "own_standards_shop_id" UNIQUE("shop_id","id"),
	CONSTRAINT "own_standards_kind" CHECK ("own_standards"."kind" IN ('reference', 'factor')),
	CONSTRAINT "own_standards_pressure" CHECK ("own_standards"."pressure" IN ('dry', 'total'))
);
--> statement-breakpoint
CREATE TABLE "tray_files" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"bay_id" uuid NOT NULL,
	"name" text NOT NULL,
	"sha256" text NOT NULL,
	"content" "bytea" NOT NULL,
	"size" integer NOT NULL,
	"code" text NOT NULL,
	"message" text NOT NULL,
	"changed_at" timestamp with time zone,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "tray_files_shop_id" UNIQUE("shop_id","id"),
	CONSTRAINT "tray_files_code" CHECK ("tray_files"."code" IN ('no-job', 'no-round', 'unreadable', 'shape-unknown', 'numbers-unknown', 'pulling'))
);
--> statement-breakpoint
ALTER TABLE "mappings" ADD COLUMN "by_itself" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "tray_files" ADD CONSTRAINT "tray_files_bay_fk" FOREIGN KEY ("shop_id","bay_id") REFERENCES "public"."bays"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "own_standards_name" ON "own_standards" USING btree ("shop_id","name");--> statement-breakpoint
CREATE UNIQUE INDEX "tray_files_digest" ON "tray_files" USING btree ("bay_id","sha256");--> statement-breakpoint
CREATE INDEX "tray_files_bay" ON "tray_files" USING btree ("shop_id","bay_id","added_at");--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['tray_files', 'own_standards'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
