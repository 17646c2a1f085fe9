CREATE TABLE "seals" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"job_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"sealed_at" timestamp with time zone NOT NULL,
	"sealed_by" text NOT NULL,
	"public_key" text NOT NULL,
	"seal" text NOT NULL,
	"sha256" text NOT NULL,
	"package_file_id" uuid NOT NULL,
	"report_file_id" uuid NOT NULL,
	"page" jsonb NOT NULL,
	"reopened_at" timestamp with time zone,
	"reopened_by" text,
	"reopen_reason" text,
	CONSTRAINT "seals_shop_id" UNIQUE("shop_id","id")
);
--> statement-breakpoint
CREATE TABLE "share_links" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"seal_id" uuid NOT NULL,
	"token_hash" text NOT NULL,
	"label" text NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	"made_by" text NOT NULL,
	"expires_at" timestamp with time zone,
	"withdrawn_at" timestamp with time zone,
	"views" integer DEFAULT 0 NOT NULL,
	"last_viewed_at" timestamp with time zone,
	CONSTRAINT "share_links_shop_id" UNIQUE("shop_id","id")
);
--> statement-breakpoint
CREATE TABLE "shop_keys" (
	"id" uuid PRIMARY KEY NOT NULL,
	"shop_id" uuid NOT NULL,
	"public_key" text NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	"made_by" text NOT NULL,
	"retired_at" timestamp with time zone,
	"change_text" text,
	"change_signature" text,
	CONSTRAINT "shop_keys_shop_id" UNIQUE("shop_id","id")
);
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "sealed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "seals" ADD CONSTRAINT "seals_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "seals" ADD CONSTRAINT "seals_package_fk" FOREIGN KEY ("shop_id","package_file_id") REFERENCES "public"."files"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "seals" ADD CONSTRAINT "seals_report_fk" FOREIGN KEY ("shop_id","report_file_id") REFERENCES "public"."files"("shop_id","id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "share_links" ADD CONSTRAINT "share_links_seal_fk" FOREIGN KEY ("shop_id","seal_id") REFERENCES "public"."seals"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "seals_place" ON "seals" USING btree ("job_id","n");--> statement-breakpoint
CREATE INDEX "seals_newest" ON "seals" USING btree ("shop_id","sealed_at");--> statement-breakpoint
CREATE UNIQUE INDEX "share_links_token" ON "share_links" USING btree ("token_hash");--> statement-breakpoint
CREATE INDEX "share_links_seal" ON "share_links" USING btree ("seal_id");--> statement-breakpoint
CREATE UNIQUE INDEX "shop_keys_in_force" ON "shop_keys" USING btree ("shop_id") WHERE retired_at IS NULL;--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['shop_keys','seals','share_links'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- Whoever bears a link's secret finds that link before any shop is known, and nothing else.
CREATE POLICY by_link ON share_links FOR SELECT USING (token_hash = nullif(current_setting('prandel.link', true), ''));
