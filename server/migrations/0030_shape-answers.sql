ALTER TABLE "mappings" ADD COLUMN "bay" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "mappings" ADD COLUMN "answers" jsonb;--> statement-breakpoint
ALTER TABLE "mappings" DROP CONSTRAINT "mappings_shop_id_signature_pk";--> statement-breakpoint
ALTER TABLE "mappings" ADD CONSTRAINT "mappings_shop_id_bay_signature_pk" PRIMARY KEY("shop_id","bay","signature");
