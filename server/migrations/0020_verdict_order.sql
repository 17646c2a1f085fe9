ALTER TABLE "jobs" ADD COLUMN "verdict_order" smallint DEFAULT 6 NOT NULL;--> statement-breakpoint
CREATE INDEX "jobs_verdict" ON "jobs" USING btree ("shop_id","verdict_order","id") WHERE deleted_at IS NULL;--> statement-breakpoint
DO $$
DECLARE shop record;
BEGIN
  PERFORM set_config('prandel.every_shop', 'on', true);
  FOR shop IN SELECT shop_id FROM shops LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    UPDATE jobs SET verdict_order = known.place
      FROM (SELECT v.job_id, min(array_position(
          ARRAY['verified-gain', 'verified-loss', 'no-meaningful-change', 'not-resolved', 'not-comparable'], v.verdict)) AS place
        FROM verdict_projections v GROUP BY v.job_id) known
      WHERE jobs.id = known.job_id;
  END LOOP;
END $$;
