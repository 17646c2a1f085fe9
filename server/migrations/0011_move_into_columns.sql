-- Every table that holds a shop's rows is closed to other shops, also to its owner.
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['customers','vehicle_models','model_cards','model_card_versions','vehicles','parts','house_methods','method_versions','bay_calibrations','bay_instruments','question_versions','question_amendments','plan_steps','setup_changes','setup_state','rounds','job_days','intake_notes','abort_limits','fittings','fitting_photos','suspects_looked','weather_readings','pull_marks'] LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('ALTER TABLE %I FORCE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY own_shop ON %I USING (shop_id = nullif(current_setting(''prandel.shop'', true), '''')::uuid)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- Facts become columns with keys. Values of unknown shape are taken where they are what they should be, and left out where not.
CREATE FUNCTION number_of(value jsonb) RETURNS double precision LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE WHEN jsonb_typeof(value) = 'number' THEN (value #>> '{}')::double precision END $$;
--> statement-breakpoint
CREATE FUNCTION text_of(value jsonb) RETURNS text LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE WHEN jsonb_typeof(value) = 'string' THEN value #>> '{}' END $$;
--> statement-breakpoint
CREATE FUNCTION flag_of(value jsonb) RETURNS boolean LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE WHEN jsonb_typeof(value) = 'boolean' THEN (value #>> '{}')::boolean END $$;
--> statement-breakpoint
CREATE FUNCTION list_of(value jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE WHEN jsonb_typeof(value) = 'array' THEN value ELSE '[]'::jsonb END $$;
--> statement-breakpoint
CREATE FUNCTION table_of(value jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE WHEN jsonb_typeof(value) = 'object' THEN value ELSE '{}'::jsonb END $$;
--> statement-breakpoint
CREATE FUNCTION one_of(value jsonb, words text[]) RETURNS text LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE WHEN value #>> '{}' = ANY (words) THEN value #>> '{}' END $$;
--> statement-breakpoint
CREATE FUNCTION digest_of(value jsonb) RETURNS text LANGUAGE sql IMMUTABLE AS $$
  SELECT encode(sha256(convert_to(value::text, 'UTF8')), 'hex') $$;
--> statement-breakpoint
CREATE FUNCTION card_version_of(shop uuid, card jsonb) RETURNS uuid LANGUAGE plpgsql AS $$
DECLARE found uuid; sum text := digest_of(card);
BEGIN
  SELECT id INTO found FROM model_card_versions WHERE shop_id = shop AND digest = sum;
  IF found IS NOT NULL THEN RETURN found; END IF;
  found := gen_random_uuid();
  INSERT INTO model_card_versions VALUES (
    found, shop, coalesce(text_of(card->'label'), ''), text_of(card->'gear'),
    coalesce(flag_of(card->'sensors'->'intake'), true), coalesce(flag_of(card->'sensors'->'coolant'), true), coalesce(flag_of(card->'sensors'->'oil'), true),
    number_of(card->'safeRpm'->0), number_of(card->'safeRpm'->1), number_of(card->'settlePulls'), coalesce(text_of(card->'notes'), ''),
    CASE WHEN jsonb_typeof(card->'baselinesSeenW') = 'array' THEN ARRAY(SELECT number_of(w) FROM jsonb_array_elements(card->'baselinesSeenW') w WHERE number_of(w) IS NOT NULL) END,
    one_of(card->'chargeAir'->'sensor', ARRAY['after-cooler', 'before-cooler']), number_of(card->'chargeAir'->'warnC'), number_of(card->'chargeAir'->'stopC'), sum);
  RETURN found;
END $$;
--> statement-breakpoint
CREATE FUNCTION method_version_of(shop uuid, method jsonb) RETURNS uuid LANGUAGE plpgsql AS $$
DECLARE found uuid; sum text := digest_of(method); ci jsonb := table_of(method->'compressionIgnition');
BEGIN
  SELECT id INTO found FROM method_versions WHERE shop_id = shop AND digest = sum;
  IF found IS NOT NULL THEN RETURN found; END IF;
  found := gen_random_uuid();
  INSERT INTO method_versions VALUES (
    found, shop, text_of(method->'name'), coalesce(text_of(method->'correction'), 'sae-j1349'), coalesce(number_of(method->'averagingWidthRpm'), 200),
    coalesce(number_of(method->'settlePulls'), 2), table_of(method->'gates'),
    CASE WHEN jsonb_typeof(method->'schools') = 'object' THEN (method->'schools') - ARRAY['picture', 'bundles', 'window', 'readOut', 'thermalMeasure'] END,
    flag_of(ci->'turbocharged'), number_of(ci->'fuelMgPerLitreCycle'), number_of(ci->'boostPressureRatio'), sum);
  RETURN found;
END $$;
--> statement-breakpoint
CREATE FUNCTION calibration_of(shop uuid, bay uuid, paper jsonb) RETURNS uuid LANGUAGE plpgsql AS $$
DECLARE
  found uuid; loss jsonb := list_of(paper->'lossTorqueNm');
  sum text := digest_of(jsonb_build_array(bay, paper - 'verdictConstants'));
BEGIN
  SELECT id INTO found FROM bay_calibrations WHERE shop_id = shop AND digest = sum;
  IF found IS NOT NULL THEN RETURN found; END IF;
  found := gen_random_uuid();
  INSERT INTO bay_calibrations (id, shop_id, bay_id, bay_label, kind, since, roller_inertia_kg_m2, loss_c0_nm, loss_c1_nm_s, loss_c2_nm_s2, readout_scale, elevation_m, digest)
  VALUES (
    found, shop, bay, coalesce(text_of(paper->'label'), ''), one_of(paper->'kind', ARRAY['inertia', 'braked', 'linked', 'split', 'hub']), text_of(paper->'calibrationEpoch'),
    number_of(paper->'rollerInertiaKgM2'), number_of(loss->0), number_of(loss->1), number_of(loss->2), coalesce(number_of(paper->'readoutScale'), 1), number_of(paper->'elevationM'), sum);
  RETURN found;
END $$;
--> statement-breakpoint
DO $$
#variable_conflict use_variable
DECLARE
  shop record; r record; j record; own record; step record; k integer; day jsonb; plan jsonb; question jsonb; rest jsonb; made uuid; bay uuid; car uuid; who uuid; item text; shape text;
BEGIN
  FOR shop IN SELECT shop_id AS id FROM installation LOOP
    PERFORM set_config('prandel.shop', shop.id::text, true);
    DELETE FROM sessions s WHERE NOT EXISTS (SELECT 1 FROM people p WHERE p.shop_id = s.shop_id AND p.id = s.person_id);

    INSERT INTO customers (id, shop_id, name, contact, notes, version)
      SELECT id, shop_id, label, coalesce(text_of(paper->'contact'), ''), coalesce(text_of(paper->'notes'), ''), version FROM records WHERE kind = 'customer';
    INSERT INTO parts (id, shop_id, name, price, currency, hours, supplier, adapters, closed_course_only, notes, version)
      SELECT id, shop_id, label, number_of(paper->'price'), coalesce(text_of(paper->'currency'), ''), number_of(paper->'hours'), coalesce(text_of(paper->'supplier'), ''),
        coalesce(text_of(paper->'adapters'), ''), coalesce(flag_of(paper->'closedCourseOnly'), false), coalesce(text_of(paper->'notes'), ''), version
      FROM records WHERE kind = 'part';
    FOR r IN SELECT * FROM records WHERE kind = 'model-card' LOOP
      made := gen_random_uuid();
      INSERT INTO vehicle_models (id, shop_id, name) VALUES (made, shop.id, r.label);
      INSERT INTO model_cards (id, shop_id, model_id, label, version_id, version)
        VALUES (r.id, shop.id, made, r.label, card_version_of(shop.id, r.paper || jsonb_build_object('label', r.label)), r.version);
    END LOOP;
    FOR r IN SELECT * FROM records WHERE kind = 'method' LOOP
      INSERT INTO house_methods (id, shop_id, name, version_id, version)
        VALUES (r.id, shop.id, r.label, method_version_of(shop.id, r.paper || jsonb_build_object('name', r.label)), r.version);
    END LOOP;
    INSERT INTO vehicles (id, shop_id, model_id, customer_id, card_id, label, driven_wheels, aspiration, transmission, mass_kg, engine_to_roller_ratio, heat_sensitive, fuel, tune, parts_fitted, tyres, oil, version)
      SELECT v.id, v.shop_id, c.model_id, o.id, c.id, v.label,
        one_of(paper->'drivenWheels', ARRAY['front', 'rear', 'all', 'motorcycle']), one_of(paper->'aspiration', ARRAY['natural', 'turbo', 'supercharged']),
        one_of(paper->'transmission', ARRAY['manual', 'automatic', 'cvt']), number_of(paper->'massKg'), number_of(paper->'engineToRollerRatio'),
        coalesce(flag_of(paper->'heatSensitive'), false), coalesce(text_of(paper->'fuel'), ''), coalesce(text_of(paper->'tune'), ''),
        coalesce(text_of(paper->'partsFitted'), ''), coalesce(text_of(paper->'tyres'), ''), coalesce(text_of(paper->'oil'), ''), v.version
      FROM records v
        LEFT JOIN model_cards c ON c.shop_id = v.shop_id AND c.label = text_of(v.paper->'modelCard')
        LEFT JOIN customers o ON o.shop_id = v.shop_id AND o.name = text_of(v.paper->'owner')
      WHERE v.kind = 'vehicle';

    FOR r IN SELECT * FROM bays LOOP
      UPDATE bays SET calibration_id = calibration_of(shop.id, r.id, r.paper || jsonb_build_object('label', r.label)), registers = coalesce(r.instruments->'registers', '{}'::jsonb) WHERE id = r.id;
      INSERT INTO bay_instruments (shop_id, bay_id, kind, host, port)
        SELECT shop.id, r.id, kind, r.instruments->kind->>'host', number_of(r.instruments->kind->'port')::integer
        FROM unnest(ARRAY['rollers', 'weather', 'bus', 'aux']) AS kind
        WHERE text_of(r.instruments->kind->'host') IS NOT NULL AND number_of(r.instruments->kind->'port') IS NOT NULL;
    END LOOP;
    DELETE FROM bay_runs a USING bay_runs b WHERE a.job_id = b.job_id AND a.bay_id > b.bay_id;
    UPDATE recordings SET draft = paper;

    -- Numbers tell jobs apart from now on.
    FOR r IN SELECT id, number, row_number() OVER (PARTITION BY number ORDER BY updated_at, id) AS n FROM jobs LOOP
      IF r.n > 1 THEN UPDATE jobs SET number = r.number || ' (' || r.n || ')' WHERE id = r.id; END IF;
    END LOOP;

    FOR j IN SELECT * FROM jobs LOOP
      bay := (SELECT id FROM bays b WHERE b.label = text_of(j.bay->'label') ORDER BY deleted_at DESC NULLS FIRST LIMIT 1);
      SELECT id INTO car FROM vehicles v WHERE v.label = text_of(j.vehicle->'label') ORDER BY id LIMIT 1;
      IF car IS NULL AND coalesce(text_of(j.vehicle->'label'), '') <> '' THEN
        car := gen_random_uuid();
        INSERT INTO vehicles (id, shop_id, label, driven_wheels, aspiration, transmission, mass_kg, engine_to_roller_ratio, heat_sensitive)
          VALUES (car, shop.id, text_of(j.vehicle->'label'), one_of(j.vehicle->'drivenWheels', ARRAY['front', 'rear', 'all', 'motorcycle']),
            one_of(j.vehicle->'aspiration', ARRAY['natural', 'turbo', 'supercharged']), one_of(j.vehicle->'transmission', ARRAY['manual', 'automatic', 'cvt']),
            number_of(j.vehicle->'massKg'), number_of(j.vehicle->'engineToRollerRatio'), coalesce(flag_of(j.vehicle->'heatSensitive'), false));
      END IF;
      who := (SELECT id FROM customers c WHERE c.name = text_of(j.day->'customer') ORDER BY id LIMIT 1);
      UPDATE jobs SET
        vehicle_id = car, customer_id = who, calibration_id = calibration_of(shop.id, bay, table_of(j.bay)), method_version_id = method_version_of(shop.id, table_of(j.method)),
        vehicle_label = coalesce(text_of(j.vehicle->'label'), ''), driven_wheels = one_of(j.vehicle->'drivenWheels', ARRAY['front', 'rear', 'all', 'motorcycle']),
        aspiration = one_of(j.vehicle->'aspiration', ARRAY['natural', 'turbo', 'supercharged']), transmission = one_of(j.vehicle->'transmission', ARRAY['manual', 'automatic', 'cvt']),
        mass_kg = number_of(j.vehicle->'massKg'), engine_to_roller_ratio = number_of(j.vehicle->'engineToRollerRatio'), heat_sensitive = flag_of(j.vehicle->'heatSensitive'),
        verdict_constants = table_of(j.bay->'verdictConstants')
      WHERE id = j.id;

      question := table_of(j.question);
      INSERT INTO question_versions (shop_id, job_id, n, text, baseline_setup, candidate_setups, measure, window_from_rpm, window_to_rpm, meaningful_gain_percent, confidence, part_changes_intake_temperature, extension)
      VALUES (shop.id, j.id, 1, coalesce(text_of(question->'text'), ''), coalesce(text_of(question->'baselineSetup'), 'A'),
        ARRAY(SELECT text_of(c) FROM jsonb_array_elements(list_of(question->'candidateSetups')) c WHERE text_of(c) IS NOT NULL),
        coalesce(text_of(question->'measure'), 'windowMeanPower'), number_of(question->'windowRpm'->0), number_of(question->'windowRpm'->1),
        coalesce(number_of(question->'meaningfulGainPercent'), 1), coalesce(number_of(question->'confidence'), 0.95),
        coalesce(flag_of(question->'partChangesIntakeTemperature'), false), one_of(question->'extension', ARRAY['declared', 'undeclared']));
      INSERT INTO plan_steps (shop_id, job_id, part, place, setup_key, settle, counted)
        SELECT shop.id, j.id, 'plan', n - 1, coalesce(text_of(s->'setup'), ''), coalesce(number_of(s->'settle'), 0), coalesce(number_of(s->'counted'), 0)
        FROM jsonb_array_elements(list_of(question->'plan')) WITH ORDINALITY AS t(s, n);
      INSERT INTO weather_readings (shop_id, job_id, place, at, pressure_hpa, air_c, relative_humidity)
        SELECT shop.id, j.id, n - 1, coalesce(text_of(w->'at'), ''), number_of(w->'pressureHpa'), number_of(w->'airC'), number_of(w->'relativeHumidity')
        FROM jsonb_array_elements(list_of(j.weather)) WITH ORDINALITY AS t(w, n);

      FOR own IN SELECT * FROM setups s WHERE s.job_id = j.id LOOP
        UPDATE setups SET label = coalesce(text_of(own.paper->'label'), own.setup_key), parent_key = text_of(own.paper->'parentId'), returns_to_key = text_of(own.paper->'returnsTo'),
          remounted = coalesce(flag_of(own.paper->'remounted'), false), closed_course_only = coalesce(flag_of(own.paper->'closedCourseOnly'), false),
          part_cost = number_of(own.paper->'partCost'), labour_hours = number_of(own.paper->'labourHours'), currency = text_of(own.paper->'currency'), supplier = text_of(own.paper->'supplier')
        WHERE job_id = j.id AND setup_key = own.setup_key;
        k := 0;
        IF coalesce(text_of(own.paper->'changes'), '') <> '' THEN
          FOREACH item IN ARRAY string_to_array(text_of(own.paper->'changes'), ';') LOOP
            INSERT INTO setup_changes (shop_id, job_id, setup_key, place, kind, part_id, words)
            VALUES (shop.id, j.id, own.setup_key, k,
              CASE WHEN item ~* '^\s*part fitted\M' THEN 'part-fitted' WHEN item ~* '^\s*part removed\M' THEN 'part-removed'
                WHEN item ~* '^\s*tune\M' THEN 'tune' WHEN item ~* '^\s*fuel\M' THEN 'fuel' ELSE 'other' END,
              (SELECT p.id FROM parts p WHERE item ~* '^\s*part fitted:' AND lower(p.name) = lower(trim(regexp_replace(item, '^\s*part fitted:', '', 'i'))) LIMIT 1), item);
            k := k + 1;
          END LOOP;
        END IF;
        INSERT INTO setup_state (shop_id, job_id, setup_key, place, field, value)
          SELECT shop.id, j.id, own.setup_key, row_number() OVER () - 1, s.key, text_of(s.value) FROM jsonb_each(table_of(own.paper->'state')) s WHERE text_of(s.value) IS NOT NULL;
      END LOOP;

      IF j.day IS NOT NULL AND jsonb_typeof(j.day) = 'object' THEN
        day := j.day; plan := table_of(day->'plan');
        rest := day - ARRAY['customer', 'claim', 'intake', 'modelCard', 'plan', 'abortLimits', 'fittings', 'cannotBeUndone', 'closedEarly', 'amendments', 'search'];
        shape := one_of(plan->'shape', ARRAY['return', 'middle', 'twice', 'hold', 'plain']);
        INSERT INTO job_days (shop_id, job_id, customer, claim, cannot_be_undone, card_id, card_version_id, shape, start_at, minutes_per_pull, fitting_minutes, open_from_min, open_until_min,
          forecast_low_c, forecast_high_c, setup_order, drawn_seed, drawn_candidates, extended_at, extended_declared, rest)
        VALUES (shop.id, j.id, text_of(day->'customer'), text_of(day->'claim'), text_of(day->'cannotBeUndone'),
          (SELECT c.id FROM model_cards c WHERE c.label = text_of(day->'modelCard'->'label') AND c.label <> ''), card_version_of(shop.id, table_of(day->'modelCard')),
          coalesce(shape, 'return'), text_of(plan->'startAt'), coalesce(number_of(plan->'minutesPerPull'), 5), coalesce(number_of(plan->'fittingMinutes'), 50),
          coalesce(number_of(plan->'openFromMin'), 480), coalesce(number_of(plan->'openUntilMin'), 1080), number_of(plan->'forecastC'->0), number_of(plan->'forecastC'->1),
          coalesce(one_of(plan->'order', ARRAY['fixed', 'randomised']), 'fixed'), number_of(plan->'drawn'->'seed')::bigint,
          CASE WHEN jsonb_typeof(plan->'drawn'->'candidates') = 'array' THEN ARRAY(SELECT text_of(c) FROM jsonb_array_elements(plan->'drawn'->'candidates') c) END,
          text_of(plan->'extended'->'at'), flag_of(plan->'extended'->'declared'), rest);
        INSERT INTO plan_steps (shop_id, job_id, part, place, setup_key, settle, counted)
          SELECT shop.id, j.id, 'extension', n - 1, coalesce(text_of(s->'setup'), ''), coalesce(number_of(s->'settle'), 0), coalesce(number_of(s->'counted'), 0)
          FROM jsonb_array_elements(list_of(plan->'extended'->'rounds')) WITH ORDINALITY AS t(s, n);
        INSERT INTO intake_notes (shop_id, job_id, place, subject, value)
          SELECT shop.id, j.id, row_number() OVER () - 1, e.key, text_of(e.value) FROM jsonb_each(table_of(day->'intake')) e WHERE text_of(e.value) IS NOT NULL;
        INSERT INTO abort_limits (shop_id, job_id, place, channel, warn, stop, side)
          SELECT shop.id, j.id, n - 1, text_of(l->'channel'), number_of(l->'warn'), number_of(l->'stop'), coalesce(one_of(l->'side', ARRAY['above', 'below']), 'above')
          FROM jsonb_array_elements(list_of(day->'abortLimits')) WITH ORDINALITY AS t(l, n) WHERE text_of(l->'channel') IS NOT NULL AND number_of(l->'stop') IS NOT NULL;
        INSERT INTO question_amendments (shop_id, job_id, place, at, who, reason, what)
          SELECT shop.id, j.id, n - 1, coalesce(text_of(a->'at'), ''), coalesce(text_of(a->'who'), ''), coalesce(text_of(a->'reason'), ''), coalesce(text_of(a->'what'), '')
          FROM jsonb_array_elements(list_of(day->'amendments')) WITH ORDINALITY AS t(a, n);
        INSERT INTO suspects_looked (shop_id, job_id, place, suspect, result, who, at)
          SELECT shop.id, j.id, n - 1, coalesce(text_of(l->'suspect'), ''), coalesce(one_of(l->'result', ARRAY['fine', 'found']), 'fine'), coalesce(text_of(l->'who'), ''), coalesce(text_of(l->'at'), '')
          FROM jsonb_array_elements(list_of(day->'search')) WITH ORDINALITY AS t(l, n);
        INSERT INTO rounds (shop_id, job_id, setup_key, n, closed_early, place)
          SELECT shop.id, j.id, substring(e.key FROM '^(.*)#[0-9]+$'), substring(e.key FROM '#([0-9]{1,6})$')::integer, text_of(e.value), row_number() OVER () - 1
          FROM jsonb_each(table_of(day->'closedEarly')) e WHERE e.key ~ '^.*#[0-9]{1,6}$' AND text_of(e.value) IS NOT NULL;
        FOR step IN SELECT f, n FROM jsonb_array_elements(list_of(day->'fittings')) WITH ORDINALITY AS t(f, n) LOOP
          made := gen_random_uuid();
          INSERT INTO fittings (id, shop_id, job_id, place, setup_key, who, started_at, stopped_at, changed, disturbed, parts, cost, notes)
          VALUES (made, shop.id, j.id, step.n - 1, coalesce(text_of(step.f->'setup'), ''), coalesce(text_of(step.f->'who'), ''), coalesce(text_of(step.f->'startedAt'), ''), text_of(step.f->'stoppedAt'),
            coalesce(text_of(step.f->'changed'), ''), coalesce(text_of(step.f->'disturbed'), ''), coalesce(text_of(step.f->'parts'), ''), number_of(step.f->'cost'), coalesce(text_of(step.f->'notes'), ''));
          INSERT INTO fitting_photos (shop_id, fitting_id, place, path, name, sha256, added_at)
            SELECT shop.id, made, n - 1, coalesce(text_of(p->'path'), ''), coalesce(text_of(p->'name'), ''), coalesce(text_of(p->'sha256'), ''), coalesce(text_of(p->'addedAt'), '')
            FROM jsonb_array_elements(list_of(step.f->'photos')) WITH ORDINALITY AS t(p, n);
        END LOOP;
      END IF;
    END LOOP;

    UPDATE pulls SET
      round = coalesce(number_of(paper->'round'), 1), position = coalesce(number_of(paper->'position'), 1), gear = text_of(paper->'gear'),
      pressure_hpa = number_of(paper->'pressureHpa'), air_c = number_of(paper->'airC'), relative_humidity = number_of(paper->'relativeHumidity'),
      intake_start_c = number_of(paper->'intakeStartC'), coolant_start_c = number_of(paper->'coolantStartC'), oil_start_c = number_of(paper->'oilStartC'),
      numbers = coalesce(one_of(paper->'numberState'->'kind', ARRAY['uncorrected', 'corrected', 'scaled', 'unknown']), 'unknown'),
      numbers_standard = text_of(paper->'numberState'->'standard'), numbers_factor = number_of(paper->'numberState'->'factor'), averaging_rpm = number_of(paper->'averagingRpm');
    INSERT INTO pull_marks (shop_id, pull_id, place, words)
      SELECT shop.id, p.id, n - 1, text_of(m) FROM pulls p, jsonb_array_elements(list_of(p.paper->'marks')) WITH ORDINALITY AS t(m, n) WHERE text_of(m) IS NOT NULL;
  END LOOP;
END $$;
--> statement-breakpoint
DROP FUNCTION card_version_of(uuid, jsonb), method_version_of(uuid, jsonb), calibration_of(uuid, uuid, jsonb), digest_of(jsonb), one_of(jsonb, text[]), table_of(jsonb), list_of(jsonb), flag_of(jsonb), text_of(jsonb), number_of(jsonb), instant_of(text);
--> statement-breakpoint
ALTER TABLE "house_methods" ADD CONSTRAINT "house_methods_version_fk" FOREIGN KEY ("shop_id","version_id") REFERENCES "public"."method_versions"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "model_cards" ADD CONSTRAINT "model_cards_model_fk" FOREIGN KEY ("shop_id","model_id") REFERENCES "public"."vehicle_models"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "model_cards" ADD CONSTRAINT "model_cards_version_fk" FOREIGN KEY ("shop_id","version_id") REFERENCES "public"."model_card_versions"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "vehicles" ADD CONSTRAINT "vehicles_model_fk" FOREIGN KEY ("shop_id","model_id") REFERENCES "public"."vehicle_models"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "vehicles" ADD CONSTRAINT "vehicles_customer_fk" FOREIGN KEY ("shop_id","customer_id") REFERENCES "public"."customers"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "vehicles" ADD CONSTRAINT "vehicles_card_fk" FOREIGN KEY ("shop_id","card_id") REFERENCES "public"."model_cards"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "bay_calibrations" ADD CONSTRAINT "bay_calibrations_bay_fk" FOREIGN KEY ("shop_id","bay_id") REFERENCES "public"."bays"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "bay_instruments" ADD CONSTRAINT "bay_instruments_bay_fk" FOREIGN KEY ("shop_id","bay_id") REFERENCES "public"."bays"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "abort_limits" ADD CONSTRAINT "abort_limits_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "fitting_photos" ADD CONSTRAINT "fitting_photos_fitting_fk" FOREIGN KEY ("shop_id","fitting_id") REFERENCES "public"."fittings"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "fittings" ADD CONSTRAINT "fittings_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "intake_notes" ADD CONSTRAINT "intake_notes_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "job_days" ADD CONSTRAINT "job_days_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "job_days" ADD CONSTRAINT "job_days_card_fk" FOREIGN KEY ("shop_id","card_id") REFERENCES "public"."model_cards"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "job_days" ADD CONSTRAINT "job_days_card_version_fk" FOREIGN KEY ("shop_id","card_version_id") REFERENCES "public"."model_card_versions"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "plan_steps" ADD CONSTRAINT "plan_steps_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "question_amendments" ADD CONSTRAINT "question_amendments_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "question_versions" ADD CONSTRAINT "question_versions_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "rounds" ADD CONSTRAINT "rounds_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "setup_changes" ADD CONSTRAINT "setup_changes_setup_fk" FOREIGN KEY ("job_id","setup_key") REFERENCES "public"."setups"("job_id","setup_key") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "setup_changes" ADD CONSTRAINT "setup_changes_part_fk" FOREIGN KEY ("shop_id","part_id") REFERENCES "public"."parts"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "setup_state" ADD CONSTRAINT "setup_state_setup_fk" FOREIGN KEY ("job_id","setup_key") REFERENCES "public"."setups"("job_id","setup_key") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "suspects_looked" ADD CONSTRAINT "suspects_looked_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "weather_readings" ADD CONSTRAINT "weather_readings_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "pull_marks" ADD CONSTRAINT "pull_marks_pull_fk" FOREIGN KEY ("shop_id","pull_id") REFERENCES "public"."pulls"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
CREATE INDEX "customers_name" ON "customers" USING btree ("shop_id","name","id");
--> statement-breakpoint
CREATE UNIQUE INDEX "house_methods_name" ON "house_methods" USING btree ("shop_id","name");
--> statement-breakpoint
CREATE UNIQUE INDEX "model_cards_label" ON "model_cards" USING btree ("shop_id","label");
--> statement-breakpoint
CREATE UNIQUE INDEX "parts_name" ON "parts" USING btree ("shop_id","name");
--> statement-breakpoint
CREATE INDEX "vehicle_models_name" ON "vehicle_models" USING btree ("shop_id","name");
--> statement-breakpoint
CREATE INDEX "vehicles_label" ON "vehicles" USING btree ("shop_id","label","id");
--> statement-breakpoint
CREATE INDEX "vehicles_customer" ON "vehicles" USING btree ("shop_id","customer_id");
--> statement-breakpoint
CREATE INDEX "vehicles_model" ON "vehicles" USING btree ("shop_id","model_id");
--> statement-breakpoint
CREATE INDEX "bay_calibrations_bay" ON "bay_calibrations" USING btree ("shop_id","bay_id","since");
--> statement-breakpoint
CREATE UNIQUE INDEX "fittings_place" ON "fittings" USING btree ("job_id","place");
--> statement-breakpoint
CREATE INDEX "job_days_card" ON "job_days" USING btree ("shop_id","card_id");
--> statement-breakpoint
CREATE INDEX "setup_changes_part" ON "setup_changes" USING btree ("shop_id","part_id");
--> statement-breakpoint
ALTER TABLE "bay_runs" ADD CONSTRAINT "bay_runs_bay_fk" FOREIGN KEY ("shop_id","bay_id") REFERENCES "public"."bays"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "bay_runs" ADD CONSTRAINT "bay_runs_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "channels" ADD CONSTRAINT "channels_pull_fk" FOREIGN KEY ("shop_id","pull_id") REFERENCES "public"."pulls"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "evidence" ADD CONSTRAINT "evidence_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "file_chunks" ADD CONSTRAINT "file_chunks_file_fk" FOREIGN KEY ("shop_id","file_id") REFERENCES "public"."files"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "files" ADD CONSTRAINT "files_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_customer_fk" FOREIGN KEY ("shop_id","customer_id") REFERENCES "public"."customers"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_vehicle_fk" FOREIGN KEY ("shop_id","vehicle_id") REFERENCES "public"."vehicles"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_calibration_fk" FOREIGN KEY ("shop_id","calibration_id") REFERENCES "public"."bay_calibrations"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_method_fk" FOREIGN KEY ("shop_id","method_version_id") REFERENCES "public"."method_versions"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "pulls" ADD CONSTRAINT "pulls_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "pulls" ADD CONSTRAINT "pulls_file_fk" FOREIGN KEY ("shop_id","file_id") REFERENCES "public"."files"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "recording_chunks" ADD CONSTRAINT "recording_chunks_recording_fk" FOREIGN KEY ("shop_id","recording_id") REFERENCES "public"."recordings"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "recordings" ADD CONSTRAINT "recordings_bay_fk" FOREIGN KEY ("shop_id","bay_id") REFERENCES "public"."bays"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "recordings" ADD CONSTRAINT "recordings_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE no action ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "sessions" ADD CONSTRAINT "sessions_person_fk" FOREIGN KEY ("shop_id","person_id") REFERENCES "public"."people"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
ALTER TABLE "setups" ADD CONSTRAINT "setups_job_fk" FOREIGN KEY ("shop_id","job_id") REFERENCES "public"."jobs"("shop_id","id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
CREATE UNIQUE INDEX "jobs_number" ON "jobs" USING btree ("shop_id","number");
--> statement-breakpoint
CREATE INDEX "jobs_vehicle" ON "jobs" USING btree ("shop_id","vehicle_id");
--> statement-breakpoint
CREATE INDEX "jobs_customer" ON "jobs" USING btree ("shop_id","customer_id");
--> statement-breakpoint
CREATE INDEX "jobs_calibration" ON "jobs" USING btree ("shop_id","calibration_id");
--> statement-breakpoint
CREATE INDEX "pulls_place" ON "pulls" USING btree ("job_id","place");
--> statement-breakpoint
ALTER TABLE "bay_runs" ADD CONSTRAINT "bay_runs_job" UNIQUE("job_id");
--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_driven_wheels" CHECK ("jobs"."driven_wheels" IN ('front', 'rear', 'all', 'motorcycle'));
--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_aspiration" CHECK ("jobs"."aspiration" IN ('natural', 'turbo', 'supercharged'));
--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_transmission" CHECK ("jobs"."transmission" IN ('manual', 'automatic', 'cvt'));
--> statement-breakpoint
ALTER TABLE "pulls" ADD CONSTRAINT "pulls_status" CHECK ("pulls"."status" IN ('settle', 'counted', 'set-aside'));
--> statement-breakpoint
ALTER TABLE "pulls" ADD CONSTRAINT "pulls_numbers" CHECK ("pulls"."numbers" IN ('uncorrected', 'corrected', 'scaled', 'unknown'));
--> statement-breakpoint
ALTER TABLE "bays" ALTER COLUMN "calibration_id" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "bays" ALTER COLUMN "registers" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "calibration_id" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "method_version_id" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "vehicle_label" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "pulls" ALTER COLUMN "round" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "pulls" ALTER COLUMN "position" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "pulls" ALTER COLUMN "numbers" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "recordings" ALTER COLUMN "draft" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "setups" ALTER COLUMN "label" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "setups" ALTER COLUMN "remounted" SET NOT NULL;
--> statement-breakpoint
ALTER TABLE "setups" ALTER COLUMN "closed_course_only" SET NOT NULL;
