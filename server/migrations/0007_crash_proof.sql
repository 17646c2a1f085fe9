CREATE TABLE "file_chunks" (
	"shop_id" uuid NOT NULL,
	"file_id" uuid NOT NULL,
	"n" integer NOT NULL,
	"content" "bytea" NOT NULL,
	CONSTRAINT "file_chunks_file_id_n_pk" PRIMARY KEY("file_id","n")
);
--> statement-breakpoint
CREATE TABLE "sign_in_tries" (
	"key" varchar(255) PRIMARY KEY NOT NULL,
	"points" integer DEFAULT 0 NOT NULL,
	"expire" bigint
);
--> statement-breakpoint
DROP INDEX "bays_label";--> statement-breakpoint
ALTER TABLE "bays" ADD COLUMN "deleted_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "size" bigint;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "deleted_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "pulls" ADD COLUMN "samples_sha256" text;--> statement-breakpoint
ALTER TABLE "recordings" ADD COLUMN "pull_key" text;--> statement-breakpoint
ALTER TABLE "recordings" ADD COLUMN "quarantined_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "recordings" ADD COLUMN "quarantine_reason" text;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "id" uuid DEFAULT gen_random_uuid() NOT NULL;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "created_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "last_seen_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "user_agent" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "address" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "file_chunks" ADD CONSTRAINT "file_chunks_file_id_files_id_fk" FOREIGN KEY ("file_id") REFERENCES "public"."files"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "installation_only_one" ON "installation" USING btree ((true));--> statement-breakpoint
CREATE INDEX "jobs_deleted" ON "jobs" USING btree ("shop_id","deleted_at") WHERE deleted_at IS NOT NULL;--> statement-breakpoint
CREATE INDEX "pulls_file" ON "pulls" USING btree ("file_id");--> statement-breakpoint
CREATE UNIQUE INDEX "recordings_pull_key" ON "recordings" USING btree ("job_id","pull_key");--> statement-breakpoint
CREATE INDEX "recordings_bay" ON "recordings" USING btree ("bay_id");--> statement-breakpoint
CREATE INDEX "sessions_person" ON "sessions" USING btree ("person_id");--> statement-breakpoint
CREATE UNIQUE INDEX "bays_label" ON "bays" USING btree ("shop_id","label") WHERE deleted_at IS NULL;--> statement-breakpoint
ALTER TABLE "file_chunks" ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE "file_chunks" FORCE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY own_shop ON "file_chunks" USING (shop_id = nullif(current_setting('prandel.shop', true), '')::uuid);
--> statement-breakpoint
-- Files are kept in pieces of one mebibyte from now on, every one with its digest and size; a recording keeps the key of its pull.
DO $$
DECLARE shop record;
BEGIN
  FOR shop IN SELECT shop_id FROM installation LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    INSERT INTO file_chunks (shop_id, file_id, n, content)
      SELECT f.shop_id, f.id, k, substring(f.content FROM k * 1048576 + 1 FOR 1048576)
      FROM files f, generate_series(0, greatest(0, (length(f.content) - 1) / 1048576)) AS k
      WHERE length(f.content) > 0;
    UPDATE files SET size = length(content), sha256 = encode(sha256(content), 'hex');
    UPDATE recordings SET pull_key = paper->'pull'->>'id' WHERE job_id IS NOT NULL;
  END LOOP;
END $$;
--> statement-breakpoint
ALTER TABLE "files" ALTER COLUMN "size" SET NOT NULL;
