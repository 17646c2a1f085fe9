import {
  channelWords,
  fromSi,
  handReadingProblem,
  HAND_MOMENTS,
  isUnitName,
  LIMITS,
  quantityOf,
  toSi,
  type HandReading,
  type UnitName,
} from '@prandel/core';
import { unitFromWord } from '../pullFile/columnRole.ts';
import { formatRecords, parseRecords, RecordReader } from './cells.ts';
import { namesOf, READING_COLUMNS } from './columns.ts';

/** How the name of a channel ends, by the unit that a reading of its quantity is kept in. */
const KEPT_IN: Readonly<Record<string, readonly [ending: string, unit: UnitName]>> = {
  temperature: ['c', '°C'],
  pressure: ['kpa', 'kPa'],
};

/**
 * Gauges of `readings.csv`. A quantity is a channel's name (`oil_c`), or a name without its unit (`oil`) with the unit beside it.
 * @throws UnreadableError with the line
 */
export function readReadings(bytes: Uint8Array, path: string) {
  const records = parseRecords(path, bytes, LIMITS.handReadings);
  const cells: Record<string, string>[] = [];
  const readings = records.rows.map((_, i): HandReading => {
    const r = new RecordReader(records, i);
    cells.push(r.unknown(namesOf(READING_COLUMNS)));
    const written = r.text('at') ?? 'peak';
    const moment = HAND_MOMENTS.find((m) => m === written);
    if (!moment) return r.fail(`at "${written}" is none of ${HAND_MOMENTS.join(', ')}.`);
    const given = r.number('value') ?? r.fail('value is empty.');
    const { channel, value } = inChannel(r.key('quantity'), r.text('unit'), given);
    const reading = { pullId: r.key('pull_id'), channel, moment, value };
    const wrong = handReadingProblem(reading);
    return wrong ? r.fail(`${wrong}.`) : reading;
  });
  return { readings, cells };
}

function inChannel(quantity: string, unit: string | null, value: number): { channel: string; value: number } {
  const plain = quantity
    .trim()
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_');
  const known = unit === null ? null : unitFromWord(unit);
  const own = unitFromWord(channelWords(plain).unit);
  const kept = known && isUnitName(known) ? KEPT_IN[quantityOf(known)] : undefined;
  if (own && known) return { channel: plain, value: fromSi(toSi(value, known), own) };
  if (own || !known || !kept) return { channel: plain, value };
  return { channel: `${plain}_${kept[0]}`, value: fromSi(toSi(value, known), kept[1]) };
}

export function readingsCsv(
  readings: readonly HandReading[],
  cells: readonly Readonly<Record<string, string>>[],
  more: readonly string[],
): string {
  return formatRecords(
    [...namesOf(READING_COLUMNS), ...more],
    readings.map(({ pullId, channel, moment, value }, i) => ({
      ...cells[i],
      ...{ pull_id: pullId, quantity: channel, unit: channelWords(channel).unit, at: moment, value },
    })),
  );
}
