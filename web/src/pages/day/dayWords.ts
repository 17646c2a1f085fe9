import type { Schemas } from '../../api/client.ts';
import { CONDITIONS, valueOf, type Condition, type Day, type Laid, type Obstacle } from './dayState.ts';

/** What says when a pull was made. */
export const TIME_WORDS: Readonly<Record<Schemas['PullTimeDto']['source'] | 'typed', string>> = {
  header: 'the lines above their numbers',
  'time-column': 'a column with the time of day',
  'file-name': 'their names',
  'file-date': 'the dates of the files',
  typed: 'what was typed',
};

export const CONDITION_WORDS: Readonly<Record<Condition, { readonly name: string; readonly unit: string }>> = {
  airC: { name: 'Air in the bay', unit: '°C' },
  pressureHpa: { name: 'Station pressure', unit: 'hPa' },
  relativeHumidity: { name: 'Humidity', unit: '%' },
  intakeStartC: { name: 'Intake at start', unit: '°C' },
  coolantStartC: { name: 'Coolant at start', unit: '°C' },
  oilStartC: { name: 'Oil at start', unit: '°C' },
};

const SAID_BY = { channel: 'channels', header: 'the lines above', station: 'the station of the bay' } as const;

/** "26 from the lines above their numbers". */
export function timesSaid(day: Day): string {
  const counts = new Map<string, number>();
  for (const { startedMs, timeFrom } of day.filter((r) => r.status !== 'left-out')) {
    const from = startedMs === null ? '' : TIME_WORDS[timeFrom as 'typed'];
    counts.set(from, (counts.get(from) ?? 0) + 1);
  }
  const parts = [...counts].map(([from, n]) => (from === '' ? `${n} not known` : `${n} from ${from}`));
  return parts.join(', ');
}

/** "air in the bay and humidity from the lines above; coolant at start not known". */
export function conditionsSaid(day: Day, pulls: readonly Laid[], keys: readonly Condition[]): string {
  const taken = day.filter((r) => r.status !== 'left-out');
  const named = new Map<string, string[]>();
  for (const key of keys) {
    const known = taken.filter((r) => valueOf(r, pulls, key) !== null);
    const sources = known.map((r) =>
      r.typed[key] !== undefined ? 'what was typed' : SAID_BY[pulls[r.place]!.conditions[key]!.source],
    );
    const missing = taken.length - known.length;
    const by =
      known.length === 0
        ? 'not known'
        : `from ${[...new Set(sources)].join(' and ')}${missing > 0 ? ` (${missing} not known)` : ''}`;
    named.set(by, [...(named.get(by) ?? []), CONDITION_WORDS[key].name.toLowerCase()]);
  }
  return [...named].map(([by, names]) => `${listed(names)} ${by}`).join('; ');
}

const listed = (names: readonly string[]) =>
  names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;

export const WEATHER = CONDITIONS.slice(0, 3);
export const STARTS = CONDITIONS.slice(3);

/** What keeps the day from being imported, in words. */
export function obstacleWords(o: Obstacle, nameOf: (place: number) => string, shapes: number): string {
  switch (o.code) {
    case 'nothing':
      return 'Every pull is left out.';
    case 'numbers':
      return shapes > 1
        ? `Say how the numbers of file shape ${o.shape + 1} stand.`
        : 'Say whether the numbers are already corrected or scaled.';
    case 'asked':
      return `Say whether ${nameOf(o.place)} is a second export.`;
    case 'reason':
      return `Say why ${nameOf(o.place)} is set aside.`;
    case 'one-time':
      return `${nameOf(o.places[0])} and ${nameOf(o.places[1])} are said to be made at one time: type the time of one, or leave it out.`;
  }
}

/** Pulls of which the files name another car than most do. */
export function otherCars(day: Day, pulls: readonly Laid[]): { vehicle: string; places: number[] }[] {
  const of = new Map<string, number[]>();
  for (const { place, status } of day) {
    const { vehicle } = pulls[place]!;
    if (vehicle !== null && status !== 'left-out') of.set(vehicle, [...(of.get(vehicle) ?? []), place]);
  }
  const sorted = [...of].sort((a, b) => b[1].length - a[1].length);
  return sorted.slice(1).map(([vehicle, places]) => ({ vehicle, places }));
}
