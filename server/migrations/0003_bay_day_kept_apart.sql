-- Row-level security for the tables of the bay day, and the log of what people did moved into the hash-chained one.
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['evidence','records','bays','bay_runs','recordings','recording_chunks'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- Evidence is only ever added to.
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION 'The evidence log is append-only.';
END $$;
--> statement-breakpoint
CREATE TRIGGER evidence_is_append_only BEFORE UPDATE OR DELETE ON evidence FOR EACH ROW EXECUTE FUNCTION refuse_change();
--> statement-breakpoint
DO $$
DECLARE
  shop record;
  old record;
  place integer;
  before text;
  canonical text;
  q text := '"';
BEGIN
  -- A forced policy binds the owner too, so the shop is announced before its rows are touched.
  FOR shop IN SELECT shop_id FROM installation LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    place := 0;
    FOR old IN
      SELECT a.*, row_number() OVER (PARTITION BY job_id ORDER BY at, id) AS row_place FROM actions a ORDER BY job_id, at, id
    LOOP
      place := old.row_place;
      IF place = 1 THEN before := repeat('0', 64); END IF;
      canonical := q || place || q || ',' || q || to_char(old.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') || q || ','
        || q || replace(old.person, q, q || q) || q || ',"edit",' || q || replace(old.what, q, q || q) || q || ',""';
      before := encode(sha256(convert_to(before || chr(10) || canonical, 'UTF8')), 'hex');
      INSERT INTO evidence (shop_id, job_id, n, at, person, kind, what, detail, hash)
      VALUES (old.shop_id, old.job_id, place, to_char(old.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"'), old.person, 'edit', old.what, '', before);
    END LOOP;
  END LOOP;
END $$;
