-- A STOP is a limit and a value from now on. One that is in force is found again by the next reading that crosses the limit.
DO $$
DECLARE shop record;
BEGIN
  PERFORM set_config('prandel.every_shop', 'on', true);
  FOR shop IN SELECT shop_id FROM shops LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    UPDATE bay_runs SET run = jsonb_set(run, '{stop}', 'null') WHERE run->'stop' ? 'words';
  END LOOP;
END $$;
