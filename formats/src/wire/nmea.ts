/** What a weather station said in one sentence; absent where it said nothing about it. */
export interface WeatherWords {
  readonly pressureHpa?: number;
  readonly airC?: number;
  /** 0–1. */
  readonly relativeHumidity?: number;
}

/** A line that is no sound NMEA 0183 sentence, and why. */
export class SentenceError extends Error {}

/** XOR of every character between `$` and `*`, two hexadecimal digits (NMEA 0183). */
export function nmeaChecksum(body: string): string {
  let sum = 0;
  for (let i = 0; i < body.length; i += 1) sum ^= body.charCodeAt(i);
  return sum.toString(16).toUpperCase().padStart(2, '0');
}

export function nmeaSentence(body: string): string {
  return `$${body}*${nmeaChecksum(body)}`;
}

/** Fields of a sentence, address first. @throws SentenceError when framing or checksum are wrong */
export function nmeaFields(line: string): string[] {
  const match = /^[$!]([\x20-\x7e]*)\*([0-9A-Fa-f]{2})$/.exec(line.trim());
  if (!match) throw new SentenceError('not an NMEA sentence with a checksum');
  const [, body, sum] = match;
  const expected = nmeaChecksum(body!);
  if (expected !== sum!.toUpperCase()) throw new SentenceError(`checksum ${sum} where ${expected} belongs`);
  return body!.split(',');
}

/**
 * Weather of an `XDR` sentence (quadruples type, value, unit, name: P in bar or pascal, C in °C, H in per cent) or of `MDA`
 * (bar and inHg, air °C, humidity per cent); null for other sentences. NMEA 0183, fields from memory.
 *
 * @throws SentenceError when framing, checksum or a number is wrong
 */
export function weatherOfSentence(line: string): WeatherWords | null {
  const fields = nmeaFields(line);
  const kind = fields[0]!.slice(-3);
  if (kind === 'XDR') return ofTransducers(fields.slice(1));
  if (kind === 'MDA') return ofComposite(fields);
  return null;
}

/** What a receiver of satellites said of the car: when, how fast, which way. */
export interface GroundWords {
  /** Milliseconds since 1970, UTC. */
  readonly atMs: number;
  readonly speedKmH: number;
  /** Course over ground, degrees from true north; NaN where it was not told. */
  readonly courseDeg: number;
}

/** Kilometres in a nautical mile, exactly. */
const NAUTICAL_MILE_KM = 1.852;

/**
 * Speed and course of an `RMC` sentence (time, status, position, knots, course, date); null for other sentences, and where the
 * receiver warns that it has no fix. NMEA 0183, fields from memory.
 *
 * @throws SentenceError when framing, checksum or a number is wrong
 */
export function groundOfSentence(line: string): GroundWords | null {
  const fields = nmeaFields(line);
  if (fields[0]!.slice(-3) !== 'RMC') return null;
  const [, time = '', status, , , , , knots = '', course = '', date = ''] = fields;
  if (status !== 'A') return null;
  const t = /^(\d{2})(\d{2})(\d{2}(?:\.\d+)?)$/.exec(time);
  const d = /^(\d{2})(\d{2})(\d{2})$/.exec(date);
  if (!t || !d) throw new SentenceError(`"${time}" and "${date}" are no time and date`);
  // Two digits of a year; the first receivers are of the eighties.
  const year = Number(d[3]) + (Number(d[3]) < 80 ? 2000 : 1900);
  const atMs = Date.UTC(year, Number(d[2]) - 1, Number(d[1]), Number(t[1]), Number(t[2]), 0);
  return {
    atMs: atMs + 1000 * Number(t[3]),
    speedKmH: number(knots) * NAUTICAL_MILE_KM,
    courseDeg: course === '' ? NaN : number(course),
  };
}

function ofTransducers(fields: readonly string[]): WeatherWords {
  const words: { pressureHpa?: number; airC?: number; relativeHumidity?: number } = {};
  for (let i = 0; i + 2 < fields.length; i += 4) {
    const [type, text, unit] = [fields[i]!, fields[i + 1]!, fields[i + 2]!];
    if (text === '') continue;
    const value = number(text);
    if (type === 'P' && unit === 'B') words.pressureHpa ??= tidy(value * 1000);
    else if (type === 'P' && unit === 'P') words.pressureHpa ??= tidy(value / 100);
    else if (type === 'C' && unit === 'C') words.airC ??= value;
    else if (type === 'H') words.relativeHumidity ??= tidy(value / 100);
  }
  return words;
}

function ofComposite(fields: readonly string[]): WeatherWords {
  const at = (value: number, unit: string) =>
    fields[value + 1] === unit && fields[value] ? number(fields[value]) : undefined;
  const bar = at(3, 'B');
  const inHg = at(1, 'I');
  const airC = at(5, 'C');
  const humidity = fields[9] ? tidy(number(fields[9]) / 100) : undefined;
  const pressureHpa = bar !== undefined ? tidy(bar * 1000) : inHg !== undefined ? tidy(inHg * 33.86389) : undefined;
  return {
    ...(pressureHpa === undefined ? {} : { pressureHpa }),
    ...(airC === undefined ? {} : { airC }),
    ...(humidity === undefined ? {} : { relativeHumidity: humidity }),
  };
}

/** Drops the last bits that scaling by ten and a hundred leaves behind. */
function tidy(value: number): number {
  return Number(value.toFixed(9));
}

function number(text: string): number {
  const value = Number(text);
  if (!Number.isFinite(value)) throw new SentenceError(`"${text}" is no number`);
  return value;
}

/** An `XDR` sentence as a weather station sends it. */
export function weatherSentence(weather: Required<WeatherWords>): string {
  const bar = (weather.pressureHpa / 1000).toFixed(5);
  const percent = (weather.relativeHumidity * 100).toFixed(1);
  return nmeaSentence(`WIXDR,P,${bar},B,BARO,C,${weather.airC.toFixed(2)},C,AIR,H,${percent},P,HUM`);
}

/** What is implausible about a reading, in words; null when nothing is. Limits are judgement. */
export function implausibleWeather(weather: WeatherWords): string | null {
  const { pressureHpa, airC, relativeHumidity } = weather;
  if (pressureHpa !== undefined && (pressureHpa < 500 || pressureHpa > 1100))
    return `pressure ${pressureHpa.toFixed(0)} hPa`;
  if (airC !== undefined && (airC < -40 || airC > 65)) return `air ${airC.toFixed(1)} °C`;
  if (relativeHumidity !== undefined && (relativeHumidity < 0 || relativeHumidity > 1.02))
    return `humidity ${(relativeHumidity * 100).toFixed(0)} %`;
  return null;
}
