import { randomUUID } from 'node:crypto';

const SEED = 20261126;
const CHUNK = 5000;
const FIRST_DAY = Date.UTC(2022, 0, 3);
const DAY_MS = 86_400_000;
const MODELS = 1000;
const PARTS = 200;
const SYLLABLES = ['bra', 'cor', 'del', 'fen', 'gor', 'hal', 'jun', 'kel', 'lum', 'mor', 'nar', 'orl', 'pel', 'qui'];

/** A made-up name of three syllables. */
const nameOf = (i) =>
  SYLLABLES[i % 14] + SYLLABLES[Math.floor(i / 14) % 14] + SYLLABLES[(3 * i + Math.floor(i / 196)) % 14];
const number = (i) => `${6 + Math.floor(i / 1_000_000)}${String(i % 1_000_000).padStart(6, '0')}-1`;

/** What searches can look for in a shop that was filled. */
const words = {
  model: (i) => nameOf(i),
  part: (i) => `KP${1000 + i}`,
  customer: (i) => `${nameOf(i + 77)}sen`,
  number,
  /** A month, or several, counted from the first day. */
  month(i, months = 1) {
    const at = (k) => encodeURIComponent(new Date(FIRST_DAY + k * 30 * DAY_MS).toISOString());
    return `from=${at(i)}&before=${at(i + months)}`;
  },
};

/**
 * Fills the first shop with jobs as a shop has them after years: cars, customers, parts, pulls and what lists know of them, all
 * from one seed. Samples are left out: no list reads any. Run as the superuser, whose rows pass row-level security.
 * @returns the shop's id and the words by which its jobs can be found
 */
export async function fillShop(client, jobs, pullsEach) {
  const { rows } = await client.query('SELECT shop_id AS id FROM shops');
  const shopId = rows[0].id;
  await client.query(`SELECT set_config('prandel.shop', $1, false)`, [shopId]);
  await client.query(`
    CREATE FUNCTION chance(i bigint, k int, below int) RETURNS int LANGUAGE sql IMMUTABLE AS
      $$ SELECT ((hashint8extended(i, ${SEED} + k) & 2147483647) % below)::int $$;
    CREATE FUNCTION id_of(kind int, i bigint) RETURNS uuid LANGUAGE sql IMMUTABLE AS
      $$ SELECT (lpad(to_hex(i), 8, '0') || '-0000-7000-8000-' || lpad(to_hex(kind), 12, '0'))::uuid $$`);
  const models = Array.from({ length: MODELS }, (_, i) => words.model(i));
  const customers = Array.from({ length: Math.ceil(jobs * 0.4) }, (_, i) => words.customer(i));
  const parts = Array.from({ length: PARTS }, (_, i) => words.part(i));
  await client.query(
    `INSERT INTO customers (id, shop_id, name) SELECT id_of(1, i), $1, 'M. ' || name FROM unnest($2::text[]) WITH ORDINALITY AS c(name, i)`,
    [shopId, customers],
  );
  await client.query(
    `INSERT INTO parts (id, shop_id, name, number, kind) SELECT id_of(2, i), $1, 'Intake pipe ' || i, n, 'intake' FROM unnest($2::text[]) WITH ORDINALITY AS p(n, i)`,
    [shopId, parts],
  );
  await client.query(
    `INSERT INTO bay_calibrations (id, shop_id, bay_label, kind, roller_inertia_kg_m2, readout_scale, digest)
      SELECT id_of(3, i), $1, 'Bay ' || i, 'inertia', 58, 1, 'bench ' || i FROM generate_series(1, 4) i`,
    [shopId],
  );
  await client.query(
    `INSERT INTO bays (id, shop_id, label, calibration_id, registers) SELECT id_of(4, i), $1, 'Bay ' || i, id_of(3, i), '{"unit":1,"base":0,"wordOrder":"big","channels":[]}' FROM generate_series(1, 4) i`,
    [shopId],
  );
  await client.query('UPDATE bay_calibrations SET bay_id = id_of(4, right(bay_label, 1)::int) WHERE shop_id = $1', [
    shopId,
  ]);
  const method = randomUUID();
  await client.query(
    `INSERT INTO method_versions (id, shop_id, correction, averaging_width_rpm, settle_pulls, tolerances, digest) VALUES ($2, $1, 'sae-j1349', 200, 2, '{}', 'bench')`,
    [shopId, method],
  );
  for (let from = 0; from < jobs; from += CHUNK) {
    await client.query('BEGIN');
    for (const statement of statementsOf(method, pullsEach))
      await client.query(statement, [shopId, from, Math.min(jobs, from + CHUNK) - 1, models]);
    await client.query('COMMIT');
  }
  // Autovacuum would have been here long ago.
  await client.query('VACUUM ANALYZE');
  return { shopId, words };
}

/** A chunk of jobs, from $2 to $3, with everything that lists, searches and the page of a job read. */
const statementsOf = (method, pullsEach) => {
  const day = (i) => `(timestamptz '2022-01-03 08:00Z' + chance(${i}, 1, 1600) * interval '1 day')`;
  const each = 'generate_series($2::bigint, $3::bigint) AS i';
  const more = 'cardinality($4::text[])';
  return [
    `INSERT INTO vehicles (id, shop_id, label, registration, customer_id)
      SELECT id_of(5, i), $1, initcap(($4::text[])[1 + chance(i, 2, ${more})]) || ' 2.0', 'QG ' || (10000 + i), id_of(1, 1 + i * 2 / 5)
      FROM ${each} WHERE chance(i, 3, 10) < 5`,
    `INSERT INTO jobs (id, shop_id, number, title, opened_at, time_zone, customer_id, vehicle_id, calibration_id, method_version_id, vehicle_label, updated_at)
      SELECT id_of(6, i), $1, (6 + i / 1000000)::text || lpad((i % 1000000)::text, 6, '0') || '-1',
        'Does the intake pipe help the ' || initcap(v.name) || '?', ${day('i')}, 'UTC', id_of(1, 1 + i * 2 / 5),
        CASE WHEN chance(i, 3, 10) < 5 THEN id_of(5, i) END, id_of(3, 1 + chance(i, 4, 4)), '${method}', initcap(v.name) || ' 2.0',
        ${day('i')} + interval '9 hours' + chance(i, 5, 86400) * interval '1 millisecond'
      FROM ${each}, LATERAL (SELECT ($4::text[])[1 + chance(i, 2, ${more})] AS name) v`,
    `INSERT INTO question_versions (shop_id, job_id, n, text, baseline_setup, candidate_setups, measure, window_from_rpm, window_to_rpm, meaningful_gain_percent, confidence, part_changes_intake_temperature)
      SELECT $1, id_of(6, i), 1, 'Is it worth its money between 3000 and 6500 rpm?', 'A', '{B}', 'windowMeanPower', 3000, 6500, 1, 0.95, false FROM ${each}, (SELECT $4::text[]) m`,
    `INSERT INTO setups (shop_id, job_id, setup_key, place, label, parent_key, returns_to_key, remounted, closed_course_only)
      SELECT $1, id_of(6, i), s.key, s.place, s.label, s.parent, s.back, false, false
      FROM ${each}, (SELECT $4::text[]) m, (VALUES ('A', 1, 'as arrived', NULL, NULL), ('B', 2, 'intake pipe', 'A', NULL), ('A2', 3, 'as arrived again', 'B', 'A')) AS s(key, place, label, parent, back)`,
    `INSERT INTO setup_changes (shop_id, job_id, setup_key, place, kind, part_id, words)
      SELECT $1, id_of(6, i), 'B', 0, 'part-fitted', id_of(2, 1 + chance(i, 6, ${PARTS})), 'fitted with its clamps' FROM ${each}, (SELECT $4::text[]) m`,
    `INSERT INTO pulls (id, shop_id, job_id, pull_key, setup_key, place, round, position, status, started_at, gear, air_c, pressure_hpa, relative_humidity, intake_start_c, numbers)
      SELECT id_of(100 + k, i), $1, id_of(6, i), (ARRAY['A','B','A2'])[1 + k * 3 / ${pullsEach}] || '-' || k, (ARRAY['A','B','A2'])[1 + k * 3 / ${pullsEach}], k, 1, 1 + k % 9,
        CASE WHEN k % 9 < 2 THEN 'settle' ELSE 'counted' END, ${day('i')} + k * interval '4 minutes', '4', 20, 1000, 0.5, 30, 'uncorrected'
      FROM ${each}, (SELECT $4::text[]) m, generate_series(0, ${pullsEach - 1}) k`,
    `INSERT INTO job_projections (shop_id, job_id, job_version, engine_version, window_from_rpm, window_to_rpm)
      SELECT $1, id_of(6, i), 1, 1, 3000, 6500 FROM ${each}, (SELECT $4::text[]) m`,
    `INSERT INTO verdict_projections (shop_id, job_id, place, candidate, measure, verdict, unit, estimate, low, high, smaller_than_matters)
      SELECT $1, id_of(6, i), 0, 'B', 'windowMeanPower', CASE WHEN c < 40 THEN 'verified-gain' WHEN c < 99 THEN 'not-resolved' ELSE 'verified-loss' END,
        'percent', c / 20.0, c / 20.0 - 1, c / 20.0 + 1, false
      FROM ${each}, (SELECT $4::text[]) m, LATERAL (SELECT chance(i, 7, 100) AS c) d`,
    `UPDATE jobs SET verdict_order = CASE v.verdict WHEN 'verified-gain' THEN 1 WHEN 'verified-loss' THEN 2 ELSE 4 END
      FROM verdict_projections v, ${each}, (SELECT $4::text[]) m WHERE jobs.shop_id = $1 AND jobs.id = id_of(6, i) AND v.job_id = jobs.id`,
    `INSERT INTO evidence (shop_id, job_id, n, at, person, kind, what, detail, hash)
      SELECT $1, id_of(6, i), k, '2026-01-05T08:00:00.000Z', 'Bench', 'edit', 'A made-up row.', '', '' FROM ${each}, (SELECT $4::text[]) m, generate_series(1, 30) k`,
  ];
};
