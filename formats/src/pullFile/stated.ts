import { convert, PLAUSIBLE, stationPressureHpa, type CorrectionId, type UnitName } from '@prandel/core';
import { parseNumber } from '../text/number.ts';
import { unitFromWord } from './columnRole.ts';
import type { Field } from './fields.ts';

/** A value and the words of the file that it was read from. */
export interface Said<T> {
  readonly value: T;
  readonly words: string;
}

/** Whether a file says that its numbers are corrected; `standard` and `factor` are null where only one of them stands there. */
export interface StatedState {
  readonly kind: 'uncorrected' | 'corrected';
  readonly standard: CorrectionId | null;
  readonly factor: number | null;
  readonly words: string;
}

/** What the lines of a file say of a pull; null where they say nothing. Temperatures in °C, pressure in hPa, humidity as a fraction. */
export interface Stated {
  readonly airC: Said<number> | null;
  readonly pressureHpa: Said<number> | null;
  readonly relativeHumidity: Said<number> | null;
  readonly intakeStartC: Said<number> | null;
  readonly coolantStartC: Said<number> | null;
  readonly oilStartC: Said<number> | null;
  readonly state: StatedState | null;
  readonly gear: Said<string> | null;
  readonly vehicle: Said<string> | null;
  readonly round: Said<string> | null;
  /** Averaging width, rpm. */
  readonly averagingRpm: Said<number> | null;
  /** Engine speed over road speed, rpm per km/h. */
  readonly rpmPerKmH: Said<number> | null;
}

/** Ways in which standards are written. Names of the standards as in `CORRECTION_NAMES`; spellings are common practice, no source. */
const STANDARDS: readonly [RegExp, CorrectionId][] = [
  [/j\s*-?\s*1349|\bsae\b(?!.*j\s*-?\s*607)/i, 'sae-j1349'],
  [/j\s*-?\s*607|^std$|\bstp\b/i, 'sae-j607'],
  [/din\s*-?\s*70\s?020|^din$/i, 'din-70020'],
  [/iso\s*-?\s*1585|\b80\/1269|ece\s*-?\s*r\s?85|^(iso|ece|eec|ewg)$/i, 'iso-1585-si'],
];
const NONE = /^(none|off|no|aus|keine|uncorrected|unkorrigiert|raw|observed|measured|nein|0)$/i;

/** The standard a text names, or null. */
export function standardIn(text: string): CorrectionId | null {
  return STANDARDS.find(([pattern]) => pattern.test(text.trim()))?.[1] ?? null;
}

/** Reads what fields say; the first that says a thing counts. */
export function statedIn(fields: readonly Field[]): Stated {
  const said = <T>(key: RegExp, read: (value: string, key: string) => T | null): Said<T> | null => {
    for (const field of fields) {
      if (!key.test(field.key)) continue;
      const value = read(field.value, field.key);
      if (value !== null) return { value, words: wordsOf(field) };
    }
    return null;
  };
  const text = (value: string) => (/[\p{L}\d]/u.test(value) ? value.slice(0, 80) : null);
  return {
    airC: said(AIR, within('airC', TEMPERATURES, '°C')),
    pressureHpa: said(PRESSURE, within('pressureHpa', PRESSURES, 'hPa')) ?? fromAltimeter(fields),
    relativeHumidity: said(HUMIDITY, (value) => {
      const read = quantity(value);
      if (!read) return null;
      const share = read.unit === 'fraction' || (read.unit === null && read.value <= 1) ? read.value : read.value / 100;
      return share > 0 && share <= 1 ? share : null;
    }),
    intakeStartC: said(/^(intake|inlet|iat|ansaug)/i, within('intakeC', TEMPERATURES, '°C')),
    coolantStartC: said(/coolant|water|ect\b|clt\b|k(ü|ue)hl(mittel|wasser)/i, within('coolantC', TEMPERATURES, '°C')),
    oilStartC: said(/^(engine )?oil( |_)?temp|^oil$|^(ö|oe)ltemp/i, within('oilC', TEMPERATURES, '°C')),
    state: stateIn(fields),
    gear: said(/^(gear|gang)$/i, (value) => /^\W*(\d|[a-z]+\d?)/i.exec(value)?.[1] ?? null),
    vehicle: said(/^(car|vehicle|fahrzeug|auto|veh(icle)? name)$/i, text),
    round: said(/^(round|series|session|serie|durchgang)( ?(no\.?|nr\.?|number))?$/i, text),
    averagingRpm: said(/smooth|averag|gl(ä|ae)tt|filter/i, (value) => {
      const read = quantity(value);
      return read?.unit === 'rpm' && read.value > 0 && read.value <= 1000 ? read.value : null;
    }),
    rpmPerKmH: said(/ratio|(ü|ue)bersetzung|rpm\s*(per|\/)\s*km/i, (value, key) => {
      const own = /rpm\s*(?:per|\/)\s*\(?km/i;
      const read = number(/^[^\d]*([\d.,]+)/.exec(value)?.[1] ?? '');
      return read && read > 1 && read < 500 && (own.test(key) || own.test(value)) ? read : null;
    }),
  };
}

const AIR =
  /^(?!.*(intake|inlet|oil|coolant|water|exhaust|charge))(.*(air|ambient|room|cell|bay|luft|umgebung|raum).*temp.*|temp(erature|eratur)?|air|ambient)$/i;
const PRESSURE =
  /^(?!.*(oil|boost|fuel|tyre|tire|manifold|sea|qnh|altimeter))(.*(baro|station|ambient|air|atmos|luft).*(press|druck).*|baro(meter)?|pressure|druck|luftdruck)$/i;
const HUMIDITY = /humid|^rh$|feucht/i;
const TEMPERATURES: readonly UnitName[] = ['°C', '°F', 'K'];
const PRESSURES: readonly UnitName[] = ['Pa', 'hPa', 'kPa', 'inHg', 'mmHg', 'psi', 'bar'];

const wordsOf = ({ key, value }: Field) => `${key}: ${value}`;

/** A number with a unit behind it, or none. */
function quantity(text: string): { value: number; unit: UnitName | null } | null {
  const found = /^\s*([+-]?[\d.,']+)\s*(.*)$/s.exec(text);
  const value = found && number(found[1]!);
  if (!found || value === null || value === undefined) return null;
  const word = found[2]!.trim().replace(/^[([{]|[)\]}]$/g, '');
  return { value, unit: word === '' ? null : unitFromWord(word) };
}

/** A number with point or comma; a single comma before anything but three digits is a decimal one. */
function number(text: string): number | null {
  const comma = /^[+-]?\d+,\d+$/.test(text) && !/,\d{3}$/.test(text);
  const value = parseNumber(text, comma ? ',' : '.');
  return value === undefined || Number.isNaN(value) ? null : value;
}

/** Reads a value in its own unit, that of its key, or the one in which it is plausible, and takes it where it can be. */
function within(
  name: 'airC' | 'intakeC' | 'coolantC' | 'oilC' | 'pressureHpa',
  units: readonly UnitName[],
  usual: UnitName,
) {
  const { low, high } = PLAUSIBLE[name];
  return (text: string, key: string): number | null => {
    const read = quantity(text);
    if (!read) return null;
    const ofKey = unitFromWord(/[([]([^)\]]+)[)\]]\s*$/.exec(key)?.[1] ?? '');
    const unit = read.unit ?? (ofKey && units.includes(ofKey) ? ofKey : likelyUnit(name, read.value, usual));
    if (!units.includes(unit)) return null;
    const own = Math.round(convert(read.value, unit, usual) * 1e4) / 1e4;
    return own >= low && own <= high ? own : null;
  };
}

/** The unit of a bare number, by its size: no bay has 55 °C, and no station under 500 hPa. */
function likelyUnit(name: string, value: number, usual: UnitName): UnitName {
  if (name === 'airC' || name === 'intakeC') return value > 55 ? '°F' : usual;
  if (name !== 'pressureHpa') return usual;
  return value < 1.2 ? 'bar' : value < 33 ? 'inHg' : value < 110 ? 'kPa' : value < 1200 ? usual : 'Pa';
}

/** Station pressure from an altimeter setting and a height, where no pressure stands there. */
function fromAltimeter(fields: readonly Field[]): Said<number> | null {
  const setting = fields.find(({ key }) => /altimeter|qnh|sea[ _-]?level/i.test(key));
  const height = fields.find(({ key }) => /^(altitude|elevation|height|h(ö|oe)he)\b/i.test(key));
  const pressure = setting && within('pressureHpa', PRESSURES, 'hPa')(setting.value, setting.key);
  const metres = height && heightM(height.value);
  if (!setting || !height || !pressure || metres === null || metres === undefined) return null;
  return { value: stationPressureHpa(pressure, metres), words: `${wordsOf(setting)} · ${wordsOf(height)}` };
}

function heightM(text: string): number | null {
  const found = /^\s*(-?[\d.,]+)\s*(m|ft|feet)?\b/i.exec(text);
  const value = found && number(found[1]!);
  // NIST SP 811: one foot is 0.3048 m exactly.
  return value === null || value === undefined ? null : /^f/i.test(found?.[2] ?? '') ? value * 0.3048 : value;
}

function stateIn(fields: readonly Field[]): StatedState | null {
  const about = fields.filter(({ key }) => /correct|korrektur|norm$|^standard$|^(cf|kf|k-?factor)$/i.test(key));
  let standard: CorrectionId | null = null;
  let factor: number | null = null;
  let none: string | null = null;
  const words: string[] = [];
  for (const field of about) {
    const named = standardIn(field.value) ?? (/factor|faktor/i.test(field.key) ? standardIn(field.key) : null);
    const read = /factor|faktor|^(cf|kf)$|correct/i.test(field.key) ? factorIn(field.value) : null;
    if (named) standard ??= named;
    if (read) factor ??= read;
    if (NONE.test(field.value.trim())) none ??= wordsOf(field);
    if (named || read) words.push(wordsOf(field));
  }
  if (standard !== null || (factor !== null && factor !== 1))
    return { kind: 'corrected', standard, factor, words: words.join(' · ') };
  if (none !== null) return { kind: 'uncorrected', standard: null, factor: null, words: none };
  return factor === 1 ? { kind: 'uncorrected', standard: null, factor: null, words: words.join(' · ') } : null;
}

/** A factor of correction somewhere in a text: 1.021, `x1,021`, `2.1 %`. */
function factorIn(text: string): number | null {
  const percent = /([+-]?\d+(?:[.,]\d+)?)\s*%/.exec(text);
  const share = percent && number(percent[1]!);
  if (share !== null && share !== undefined && Math.abs(share) < 30) return Math.round((1 + share / 100) * 1e6) / 1e6;
  const found = /(?<![\d.,])([01][.,]\d{2,5})(?![\d.,])/.exec(text);
  const value = found && Number(found[1]!.replace(',', '.'));
  return value && value > 0.7 && value < 1.4 ? value : null;
}
