CREATE TABLE "pull_holds" (
	"shop_id" uuid NOT NULL,
	"pull_id" uuid NOT NULL,
	"gate" text NOT NULL,
	"seconds" double precision NOT NULL,
	CONSTRAINT "pull_holds_pull_id_gate_pk" PRIMARY KEY("pull_id","gate")
);
--> statement-breakpoint
ALTER TABLE "pull_holds" ADD CONSTRAINT "pull_holds_pull_fk" FOREIGN KEY ("shop_id","pull_id") REFERENCES "public"."pulls"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "pull_holds" ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
ALTER TABLE "pull_holds" FORCE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY own_shop ON "pull_holds" USING (shop_id = nullif(current_setting('prandel.shop', true), '')::uuid);
