CREATE TABLE "pull_moments" (
	"shop_id" uuid NOT NULL,
	"pull_id" uuid PRIMARY KEY NOT NULL,
	"frame" "bytea" NOT NULL,
	"samples_sha256" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "pull_moments" ADD CONSTRAINT "pull_moments_pull_fk" FOREIGN KEY ("shop_id","pull_id") REFERENCES "public"."pulls"("shop_id","id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
DO $$
BEGIN
  ALTER TABLE pull_moments ENABLE ROW LEVEL SECURITY;
  ALTER TABLE pull_moments FORCE ROW LEVEL SECURITY;
  CREATE POLICY own_shop ON pull_moments USING (shop_id = nullif(current_setting('prandel.shop', true), '')::uuid);
END $$;
