-- Rounds that were closed early belong to the job, not to the car's stay on the rollers: they outlive it.
DO $$
DECLARE shop record;
BEGIN
  FOR shop IN SELECT shop_id FROM installation LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    UPDATE jobs SET day = jobs.day || jsonb_build_object('closedEarly', bay_runs.run->'closedEarly')
      FROM bay_runs
      WHERE bay_runs.job_id = jobs.id AND jobs.day IS NOT NULL AND coalesce(bay_runs.run->'closedEarly', '{}') <> '{}'::jsonb;
    UPDATE bay_runs SET run = run - 'closedEarly';
  END LOOP;
END $$;
