import { createHash } from 'node:crypto';
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { brokenRow, CHAIN_START, evidenceCsv, linked, type EvidenceRow } from './chain.ts';
import { readEvents } from './readEvents.ts';

const event = fc.record({
  at: fc.date({ noInvalidDate: true, min: new Date(0), max: new Date(4e12) }).map((d) => d.toISOString()),
  person: fc.string(),
  kind: fc.constantFrom('pull', 'override', 'set-aside', 'fitting'),
  what: fc.oneof(fc.string(), fc.constant('Set A·5 aside: "fan moved",\r\nsecond line ')),
  detail: fc.oneof(fc.constant(''), fc.json()),
});
const logs = fc
  .array(event, { minLength: 1, maxLength: 12 })
  .map((events) => events.reduce<EvidenceRow[]>((rows, e) => [...rows, linked(rows.at(-1) ?? null, e)], []));

test('the first row’s hash is SHA-256 of sixty-four zeros, a line feed and its canonical text', () => {
  const row = linked(null, {
    at: '2026-05-02T09:00:00.000Z',
    person: 'Ines R.',
    kind: 'pull',
    what: 'A "first" pull',
    detail: '',
  });
  const text = `${CHAIN_START}\n"1","2026-05-02T09:00:00.000Z","Ines R.","pull","A ""first"" pull",""`;
  expect(row.hash).toBe(createHash('sha256').update(text).digest('hex'));
});

test('a log goes through events.csv and its chain still holds (property)', () => {
  fc.assert(
    fc.property(logs, (rows) => {
      expect(brokenRow(rows)).toBeNull();
      const back = readEvents(new TextEncoder().encode(evidenceCsv(rows)));
      expect(back).toEqual(rows);
      expect(brokenRow(back)).toBeNull();
    }),
  );
});

test('any change, loss or swap of a row is found at that row (property)', () => {
  fc.assert(
    fc.property(logs, fc.nat(), fc.constantFrom('what', 'person', 'at', 'drop'), (rows, pick, how) => {
      const i = pick % rows.length;
      const changed =
        how === 'drop'
          ? rows.filter((_, k) => k !== i)
          : rows.map((r, k) => (k === i ? { ...r, [how]: r[how] + '·' } : r));
      fc.pre(how !== 'drop' || i < rows.length - 1);
      expect(brokenRow(changed)?.n).toBe(i + 1);
    }),
  );
});
