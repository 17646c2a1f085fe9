ALTER TABLE "setup_changes" ADD COLUMN "part_name" text;--> statement-breakpoint
ALTER TABLE "setups" ADD COLUMN "declares" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "setups" ADD CONSTRAINT "setups_declares" CHECK ("setups"."declares" <@ ARRAY['fuel', 'tuneDigest', 'hood', 'fan', 'safeties', 'controllerState', 'loadSetting', 'tyrePressureKpa', 'gear', 'averagingRpm']::text[]);--> statement-breakpoint
-- What was one text with semicolons has been a row an item since the records came; line ends separate items now, fitted and removed
-- parts get their names, and the states that the items name are written down once, by the words that were looked for until now.
DO $$
DECLARE shop record;
BEGIN
  PERFORM set_config('prandel.every_shop', 'on', true);
  FOR shop IN SELECT shop_id FROM shops LOOP
    PERFORM set_config('prandel.shop', shop.shop_id::text, true);
    CREATE TEMP TABLE parted AS
      SELECT c.shop_id, c.job_id, c.setup_key, CASE WHEN s.n = 1 THEN c.part_id END AS part_id, s.item,
        (row_number() OVER (PARTITION BY c.job_id, c.setup_key ORDER BY c.place, s.n) - 1)::integer AS place
      FROM setup_changes c, regexp_split_to_table(c.words, '\r?\n') WITH ORDINALITY AS s(item, n)
      WHERE EXISTS (
        SELECT 1 FROM setup_changes o WHERE o.job_id = c.job_id AND o.setup_key = c.setup_key AND o.words ~ '\n'
      );
    DELETE FROM setup_changes c USING parted p WHERE c.job_id = p.job_id AND c.setup_key = p.setup_key;
    INSERT INTO setup_changes (shop_id, job_id, setup_key, place, kind, part_id, words)
      SELECT shop_id, job_id, setup_key, place,
        CASE
          WHEN item ~* '^\s*part fitted\M' THEN 'part-fitted'
          WHEN item ~* '^\s*part removed\M' THEN 'part-removed'
          WHEN item ~* '^\s*tune\M' THEN 'tune'
          WHEN item ~* '^\s*fuel\M' THEN 'fuel'
          ELSE 'other'
        END,
        part_id, item
      FROM parted;
    DROP TABLE parted;
    UPDATE setup_changes SET part_name = (regexp_match(words, '^\s*part (?:fitted|removed)\M(?:\s*:)?\s*(.*\S)\s*$', 'i'))[1]
      WHERE kind IN ('part-fitted', 'part-removed');
    UPDATE setups s SET declares = named.states
    FROM (
      SELECT c.job_id, c.setup_key, array_agg(DISTINCT w.state) AS states
      FROM setup_changes c
      JOIN (VALUES
        ('fuel', '\y(fuel|octane|petrol|gasoline|diesel)\y'),
        ('tuneDigest', '\y(re)?(tune|tuned|map|calibration)\y'),
        ('hood', '\y(hood|bonnet)\y'),
        ('fan', '\y(fan|fans)\y'),
        ('safeties', '\ysafet(y|ies)\y'),
        ('controllerState', '\y(controller|reset|learned|ecu)\y'),
        ('loadSetting', '\y(load|ramp)\y'),
        ('tyrePressureKpa', '\y(tyres?|tires?)\y'),
        ('gear', '\ygear\y(?!\s*(oil|ratio|lube))'),
        ('averagingRpm', '\yaveraging\y')
      ) AS w(state, words) ON c.words ~* w.words
      WHERE c.words !~* '^\s*part\y'
      GROUP BY c.job_id, c.setup_key
    ) AS named
    WHERE s.job_id = named.job_id AND s.setup_key = named.setup_key;
  END LOOP;
END $$;
