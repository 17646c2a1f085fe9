ALTER TABLE "tray_files" ALTER COLUMN "message" DROP NOT NULL;--> statement-breakpoint
CREATE INDEX "files_digest" ON "files" USING btree ("shop_id","sha256");