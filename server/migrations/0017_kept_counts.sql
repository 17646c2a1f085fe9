ALTER TABLE "jobs" ADD COLUMN "pull_count" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "last_pull_at" timestamp with time zone;--> statement-breakpoint
CREATE FUNCTION keep_pull_counts() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE jobs SET pull_count = own.n, last_pull_at = own.last_at
    FROM (SELECT c.job_id, count(p.id)::int AS n, max(p.started_at) AS last_at
      FROM (SELECT DISTINCT job_id FROM changed) c LEFT JOIN pulls p ON p.job_id = c.job_id GROUP BY c.job_id) own
    WHERE jobs.id = own.job_id AND (pull_count, last_pull_at) IS DISTINCT FROM (own.n, own.last_at);
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER pulls_counted_in AFTER INSERT ON pulls REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION keep_pull_counts();
--> statement-breakpoint
CREATE TRIGGER pulls_counted_out AFTER DELETE ON pulls REFERENCING OLD TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION keep_pull_counts();
--> statement-breakpoint
CREATE TRIGGER pulls_counted_anew AFTER UPDATE ON pulls REFERENCING NEW TABLE AS changed
  FOR EACH STATEMENT EXECUTE FUNCTION keep_pull_counts();
--> statement-breakpoint
-- Words follow what a person can change, not these counts.
DROP TRIGGER jobs_words ON jobs;
--> statement-breakpoint
CREATE CONSTRAINT TRIGGER jobs_words AFTER INSERT OR UPDATE OF version, number, title, vehicle_label, vehicle_id, customer_id ON jobs
  DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE FUNCTION keep_job_words();
--> statement-breakpoint
DO $$
DECLARE shop record;
BEGIN
  PERFORM set_config('prandel.every_shop', 'on', true);
  FOR shop IN SELECT shop_id FROM shops LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    UPDATE jobs SET pull_count = own.n, last_pull_at = own.last_at
      FROM (SELECT p.job_id, count(*)::int AS n, max(p.started_at) AS last_at FROM pulls p GROUP BY p.job_id) own
      WHERE jobs.id = own.job_id;
  END LOOP;
END $$;
