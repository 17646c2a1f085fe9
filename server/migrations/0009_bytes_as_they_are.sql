-- Samples hardly compress and are written while a pull runs; files compress well, but the usual way of it takes longer than
-- reading them. Where this PostgreSQL was built without lz4, files are kept as they are.
ALTER TABLE "channels" ALTER COLUMN "samples" SET STORAGE EXTERNAL;--> statement-breakpoint
ALTER TABLE "recording_chunks" ALTER COLUMN "samples" SET STORAGE EXTERNAL;--> statement-breakpoint
DO $$
BEGIN
  ALTER TABLE "file_chunks" ALTER COLUMN "content" SET COMPRESSION lz4;
EXCEPTION WHEN OTHERS THEN
  ALTER TABLE "file_chunks" ALTER COLUMN "content" SET STORAGE EXTERNAL;
END $$;
