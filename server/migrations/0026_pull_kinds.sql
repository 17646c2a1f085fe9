ALTER TABLE "pulls" ADD COLUMN "kind" text DEFAULT 'sweep' NOT NULL;--> statement-breakpoint
ALTER TABLE "pulls" ADD CONSTRAINT "pulls_kind" CHECK ("pulls"."kind" IN ('sweep', 'roll-on', 'hold'));