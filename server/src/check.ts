import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { brokenRow, type EvidenceRow } from '@prandel/formats';
import pg from 'pg';
import { diskState } from './operations/disk.ts';

/**
 * Looks whether everything that is stored holds: schema, evidence chains, files, orphans, disk. Reads across all shops, so it runs
 * as the backup's role. One line a matter; exit code 1 when something does not hold.
 */
const client = new pg.Client({ connectionString: process.env.DATABASE_URL });
let wrong = 0;
const tell = (ok: boolean, what: string) => {
  if (!ok) wrong += 1;
  console.log(`${ok ? 'ok    ' : 'WRONG '} ${what}`);
};
await client.connect();
await client.query('BEGIN TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY');

const journal = JSON.parse(readFileSync(new URL('../migrations/meta/_journal.json', import.meta.url), 'utf8')) as {
  entries: { when: number; tag: string }[];
};
const newest = journal.entries.at(-1)!;
const { rows: applied } = await client.query<{ at: string | null }>(
  'SELECT max(created_at) AS at FROM drizzle.__drizzle_migrations',
);
const at = Number(applied[0]?.at ?? 0);
tell(
  at === newest.when,
  `schema: ${at === newest.when ? newest.tag : at > newest.when ? 'newer than this version' : 'older than this version'}`,
);

let chains = 0;
let links = 0;
const { rows: jobs } = await client.query<{ id: string; number: string }>('SELECT id, number FROM jobs ORDER BY id');
for (const { id, number } of jobs) {
  const { rows } = await client.query<EvidenceRow>(
    'SELECT n, at, person, kind, what, detail, hash FROM evidence WHERE job_id = $1 ORDER BY n',
    [id],
  );
  const broken = brokenRow(rows);
  if (broken) tell(false, `evidence of job ${number}: row ${broken.n}: ${broken.why}`);
  chains += 1;
  links += rows.length;
}
tell(true, `evidence: ${chains} chains of ${links} rows looked at`);

let filesSeen = 0;
const { rows: files } = await client.query<{ id: string; name: string; sha256: string; size: string }>(
  'SELECT id, name, sha256, size FROM files ORDER BY id',
);
for (const { id, name, sha256, size } of files) {
  const hash = createHash('sha256');
  let bytes = 0;
  for (let n = 0; ; n += 1) {
    const { rows } = await client.query<{ content: Buffer }>(
      'SELECT content FROM file_chunks WHERE file_id = $1 AND n = $2',
      [id, n],
    );
    if (rows.length === 0) break;
    hash.update(rows[0]!.content);
    bytes += rows[0]!.content.length;
  }
  if (bytes !== Number(size)) tell(false, `file ${name}: ${bytes} of ${size} bytes are here`);
  else if (hash.digest('hex') !== sha256) tell(false, `file ${name}: its bytes do not match its digest`);
  filesSeen += 1;
}
tell(true, `files: ${filesSeen} looked at, byte by byte`);

const { rows: tray } = await client.query<{ id: string; name: string }>('SELECT id, name FROM tray_files ORDER BY id');
for (const { id, name } of tray) {
  const { rows } = await client.query<{ content: Buffer; sha256: string }>(
    'SELECT content, sha256 FROM tray_files WHERE id = $1',
    [id],
  );
  const [row] = rows;
  if (row && createHash('sha256').update(row.content).digest('hex') !== row.sha256)
    tell(false, `file ${name} of a tray: its bytes do not match its digest`);
}
tell(true, `trays: ${tray.length} files looked at`);

const ORPHANS: Readonly<Record<string, string>> = {
  'channels without a pull':
    'SELECT count(*) FROM channels c WHERE NOT EXISTS (SELECT 1 FROM pulls p WHERE p.id = c.pull_id)',
  'pulls without a job': 'SELECT count(*) FROM pulls p WHERE NOT EXISTS (SELECT 1 FROM jobs j WHERE j.id = p.job_id)',
  'pulls of a setup that is not there':
    'SELECT count(*) FROM pulls p WHERE NOT EXISTS (SELECT 1 FROM setups s WHERE s.job_id = p.job_id AND s.setup_key = p.setup_key)',
  'pulls from a file that is not there':
    'SELECT count(*) FROM pulls p WHERE file_id IS NOT NULL AND NOT EXISTS (SELECT 1 FROM files f WHERE f.id = p.file_id)',
  'rows of another shop than their job':
    'SELECT count(*) FROM pulls p JOIN jobs j ON j.id = p.job_id WHERE p.shop_id <> j.shop_id',
  'recordings without a bay':
    'SELECT count(*) FROM recordings r WHERE NOT EXISTS (SELECT 1 FROM bays b WHERE b.id = r.bay_id)',
};
for (const [what, sql] of Object.entries(ORPHANS)) {
  const { rows } = await client.query<{ count: string }>(sql);
  tell(rows[0]!.count === '0', `${what}: ${rows[0]!.count}`);
}
const { rows: waiting } = await client.query<{ count: string }>(
  'SELECT count(*) FROM recordings WHERE quarantined_at IS NOT NULL',
);
tell(true, `quarantined recordings that wait for a person: ${waiting[0]!.count}`);

const disk = await diskState();
tell(
  disk.state !== 'full',
  `disk: ${(disk.freeBytes / 1e9).toFixed(1)} GB free${disk.state === 'low' ? ', which is little' : ''}`,
);
await client.end();
process.exitCode = wrong > 0 ? 1 : 0;
