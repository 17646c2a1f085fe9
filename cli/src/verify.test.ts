import { generateKeyPairSync, sign as signWith } from 'node:crypto';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { beforeAll, describe, expect, test } from '@jest/globals';
import { judgeJob } from '@prandel/core';
import {
  evidenceCsv,
  linked,
  makeSeal,
  pullDigest,
  reportDigest,
  SEAL_PATH,
  SEAL_PLACE,
  sealText,
  withSeal,
  writePackage,
  zip,
  type EvidenceRow,
  type PackageFiles,
  type Seal,
} from '@prandel/formats';
import { sealedVerdicts, USUAL_UNITS } from '@prandel/presentation';
import { DEMO_DAYS, simulateDay } from '@prandel/simulator';
import { judgeCommand, verifyCommand } from './index.ts';

const folder = mkdtempSync(join(tmpdir(), 'prandel-verify-'));
const job = simulateDay(DEMO_DAYS.find((d) => d.id === 'QG-0910-2')!);
const { publicKey, privateKey } = generateKeyPairSync('ed25519');
const sign = (message: Uint8Array) => signWith(null, message, privateKey);
const PHOTO = 'photos/fitting.jpg';
const REPORT = `<!doctype html><html lang="en"><head><title>x</title></head><body><p>+2.0 %</p>${SEAL_PLACE}</body></html>`;

/** A log as a shop's: a row a pull with its digests, and one of a set-aside in the end. */
function logOf(): EvidenceRow[] {
  const rows: EvidenceRow[] = [];
  for (const pull of job.pulls)
    rows.push(
      linked(rows.at(-1) ?? null, {
        ...{ at: pull.startedAt!, person: 'the bay', kind: 'pull', what: `Recorded pull ${pull.id}.` },
        detail: JSON.stringify({ digests: { [pull.id]: pullDigest(pull) } }),
      }),
    );
  return [
    ...rows,
    linked(rows.at(-1)!, {
      at: '2026-11-27T10:00:00.000Z',
      person: 'Ines R.',
      kind: 'note',
      what: 'Done.',
      detail: '',
    }),
  ];
}

const log = logOf();
const plainFiles = writePackage(job, undefined, log);
plainFiles.set(PHOTO, new Uint8Array([0xff, 0xd8, 0xff, 1, 2, 3]));

const sealOf = (files: PackageFiles, rows = log): Seal =>
  makeSeal({
    ...{ files, log: rows, sign, reportSha256: reportDigest(REPORT) },
    facts: {
      ...{ sealedAt: '2026-11-27T10:05:00.000Z', shop: 'Quillmoor Garage', by: 'Ines R.', supersedes: null },
      engine: { name: 'prandel', version: 'test' },
      verdicts: sealedVerdicts(judgeJob(job), { ...USUAL_UNITS, power: 'hp' }),
      publicKey: Buffer.from(publicKey.export({ format: 'jwk' }).x!, 'base64url').toString('base64'),
    },
  });
const seal = sealOf(plainFiles);

function sealed(change: (files: PackageFiles) => void = () => undefined, own: Seal = seal): PackageFiles {
  const files = new Map(plainFiles);
  files.set(SEAL_PATH, new TextEncoder().encode(sealText(own)));
  change(files);
  return files;
}

const edit = (path: string, from: string | RegExp, to: string) => (files: PackageFiles) => {
  const before = new TextDecoder().decode(files.get(path));
  const after = before.replace(from, to);
  if (after === before) throw new Error(`${path} does not hold what is to be changed.`);
  files.set(path, new TextEncoder().encode(after));
};

async function checked(name: string, files: PackageFiles) {
  const path = join(folder, name);
  writeFileSync(path, await zip(files));
  const lines: string[] = [];
  const code = await verifyCommand([path], (line) => lines.push(line));
  return { code, lines, failed: lines.filter((l) => l.startsWith('  FAILS')).map((l) => l.slice(9)) };
}

const channelFile = [...plainFiles.keys()].find((p) => p.startsWith('channels/'))!;
const firstPull = job.pulls[0]!;

describe('./prandel verify', () => {
  beforeAll(async () => writeFileSync(join(folder, 'whole.zip'), await zip(sealed())));

  test('a sealed package holds: signature, files, log, pulls, and verdicts made anew in the units they were printed in', async () => {
    const { code, lines, failed } = await checked('sealed.zip', sealed());
    expect(failed).toEqual([]);
    expect(code).toBe(0);
    expect(lines[0]).toContain('The seal holds');
    expect(lines.filter((l) => l.startsWith('  holds'))).toHaveLength(6);
    expect(lines.join('\n')).toContain('honesty of whoever held the throttle');
    expect(seal.verdicts[0]!.unit).toBe('hp');
  });

  const status = (files: PackageFiles) => {
    const text = new TextDecoder().decode(files.get('pulls.csv'));
    edit('pulls.csv', /,counted,/, ',settle,')(files);
    expect(text).not.toBe(new TextDecoder().decode(files.get('pulls.csv')));
  };
  const digit = (text: string) =>
    text.replace(/(\d)(\r\n)/, (_, d: string, end: string) => `${(Number(d) + 1) % 10}${end}`);

  test.each<[string, (files: PackageFiles) => void, RegExp[]]>([
    [
      'a sample of a pull',
      (files) =>
        files.set(channelFile, new TextEncoder().encode(digit(new TextDecoder().decode(files.get(channelFile))))),
      [new RegExp(`${channelFile} was changed`), new RegExp(`samples of pull ${firstPull.id}`)],
    ],
    ['whether a pull counts', status, [/pulls\.csv was changed/, /What is said of pull/]],
    ['the weather', edit('weather.csv', /\d(?=\r\n)/, '9'), [/weather\.csv was changed/]],
    ['an event', edit('events.csv', 'Done.', 'Gone.'), [/events\.csv was changed/, /log does not hold at row/]],
    [
      'a printed figure',
      edit(SEAL_PATH, `"verdict":"verified-loss"`, `"verdict":"verified-gain"`),
      [/signature of the seal does not hold/, /Sealed for B: verified-gain.*The pulls give verified-loss/],
    ],
    [
      'a photo',
      (files) => files.set(PHOTO, new Uint8Array([0xff, 0xd8, 0xff, 9])),
      [/photos\/fitting\.jpg was changed/],
    ],
    ['the seal', edit(SEAL_PATH, 'Quillmoor', 'Quillmore'), [/signature of the seal does not hold/]],
    ['a file taken out', (files) => files.delete(PHOTO), [/photos\/fitting\.jpg was sealed and is missing/]],
    ['a file put in', (files) => files.set('photos/other.jpg', new Uint8Array([1])), [/photos\/other\.jpg was put in/]],
    [
      'the end of the log',
      (files) => files.set('events.csv', new TextEncoder().encode(evidenceCsv(log.slice(0, -1)))),
      [/events\.csv was changed/, /does not end there now/],
    ],
  ])('what was changed is named: %s', async (name, change, expected) => {
    const { code, failed } = await checked(`${name.replaceAll(' ', '-')}.zip`, sealed(change));
    expect(code).toBe(1);
    for (const words of expected) expect(failed.join('\n')).toMatch(words);
    expect(failed.length).toBeLessThanOrEqual(expected.length + 1);
  });

  test('who digests everything anew still lacks the key, and a seal of another key shows another fingerprint', async () => {
    const forged = new Map(plainFiles);
    status(forged);
    const own = { ...sealOf(forged), signature: seal.signature };
    const { code, failed } = await checked(
      'forged.zip',
      sealed((files) => files.set('pulls.csv', forged.get('pulls.csv')!), own),
    );
    expect(code).toBe(1);
    expect(failed.join('\n')).toMatch(/signature of the seal does not hold/);
    expect(failed.join('\n')).toMatch(/What is said of pull/);
    expect(failed.join('\n')).not.toMatch(/pulls\.csv was changed/);
  });

  test('a report holds to its last character; what is no report and no package is told, exit 2', async () => {
    const html = withSeal(REPORT, seal);
    const run = async (text: string) => {
      const lines: string[] = [];
      const path = join(folder, 'report.html');
      writeFileSync(path, text);
      return { code: await verifyCommand([path], (l) => lines.push(l)), text: lines.join('\n') };
    };
    expect(await run(html)).toMatchObject({
      code: 0,
      text: expect.stringContaining('to the last character') as unknown,
    });
    expect(await run(html.replace('+2.0 %', '+3.0 %'))).toMatchObject({
      ...{ code: 1, text: expect.stringContaining('The report was changed after it was sealed') as unknown },
    });
    expect(await run(REPORT)).toMatchObject({ code: 2, text: expect.stringContaining('bears no seal') as unknown });
    expect(await run('nothing')).toMatchObject({ code: 2, text: expect.stringContaining('ZIP') as unknown });
    const lines: string[] = [];
    expect(await verifyCommand([join(folder, 'missing.zip')], (l) => lines.push(l))).toBe(2);
  });

  test('judge says in one finding that a log or a seal does not hold, and nothing of a sound package', async () => {
    const said = async (name: string, files: PackageFiles) => {
      writeFileSync(join(folder, name), await zip(files));
      const lines: string[] = [];
      expect(await judgeCommand([join(folder, name)], (l) => lines.push(l))).toBe(0);
      return (JSON.parse(lines[0]!) as { evidence: { code: string; text: string } | null }).evidence;
    };
    expect(await said('sound.zip', sealed())).toBeNull();
    expect(await said('no-log.zip', writePackage(job))).toBeNull();
    const unsealed = new Map(plainFiles);
    edit('events.csv', 'Done.', 'Gone.')(unsealed);
    expect(await said('broken.zip', unsealed)).toMatchObject({ code: 'evidence-broken' });
    expect((await said('status.zip', sealed(status)))!.text).toMatch(/pulls\.csv was changed/);
  });
});
