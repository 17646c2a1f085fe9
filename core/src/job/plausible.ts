/**
 * The one place that says what is plausible: readers of files and packages, the interface's requests and the live bay all ask
 * here. Ranges are those outside which a value is a mistake of unit or of typing, not an unusual day (judgement, no source).
 */

/** Sizes up to which files, requests and recordings are taken; beyond them they are refused with a sentence. */
export const LIMITS = {
  pullsPerFile: 200,
  pullsPerJob: 2000,
  /** Judged together: 300 take a second or two, but with the cube of them where rounds are broken off by others, some 15 s. */
  countedPullsJudged: 300,
  channelsPerPull: 64,
  rowsPerPull: 2_000_000,
  headerCellCharacters: 200,
  numberCellCharacters: 64,
  textCharacters: 10_000,
  setupsPerJob: 50,
  weatherReadings: 20_000,
  roadPasses: 200,
  handReadings: 5000,
  loggersPerJob: 20,
} as const;

interface Range {
  readonly what: string;
  readonly unit: string;
  readonly low: number;
  readonly high: number;
  /** Values outside the range that have one usual explanation. */
  readonly looksLike?: readonly { readonly low: number; readonly high: number; readonly hint: string }[];
}

const KELVIN = { low: 230, high: 450, hint: 'kelvin' };
const FAHRENHEIT = (low: number, high: number) => ({ low, high, hint: 'degrees Fahrenheit' });

/** Plausible values by quantity, in the unit that the name says. */
export const PLAUSIBLE = {
  engineRpm: {
    what: 'engine speed',
    unit: 'rpm',
    low: 0,
    high: 30_000,
    looksLike: [{ low: 30_000, high: 20_000_000, hint: 'rpm times a factor, or another column' }],
  },
  rollerRadS: { what: 'roller speed', unit: 'rad/s', low: -50, high: 2000 },
  pressureHpa: {
    what: 'station pressure',
    unit: 'hPa',
    low: 500,
    high: 1100,
    looksLike: [
      { low: 0.5, high: 1.1, hint: 'bar' },
      { low: 14, high: 33, hint: 'inHg' },
      { low: 50, high: 110, hint: 'kPa' },
      { low: 50_000, high: 110_000, hint: 'pascal' },
    ],
  },
  airC: { what: 'air temperature', unit: '°C', low: -60, high: 80, looksLike: [FAHRENHEIT(80, 180), KELVIN] },
  relativeHumidity: {
    what: 'relative humidity',
    unit: '',
    low: 0,
    high: 1,
    looksLike: [{ low: 1, high: 100, hint: 'per cent; write it as a fraction 0–1' }],
  },
  intakeC: { what: 'intake air', unit: '°C', low: -60, high: 400 },
  coolantC: { what: 'coolant', unit: '°C', low: -60, high: 200, looksLike: [KELVIN] },
  oilC: { what: 'oil temperature', unit: '°C', low: -60, high: 300, looksLike: [KELVIN] },
  wheelPowerW: { what: 'wheel power', unit: 'W', low: -3e6, high: 3e6 },
  wheelTorqueNm: { what: 'wheel torque', unit: 'N·m', low: -10_000, high: 10_000 },
  brakeNm: { what: 'brake torque', unit: 'N·m', low: -200_000, high: 200_000 },
  massKg: { what: 'mass', unit: 'kg', low: 50, high: 20_000 },
  engineToRollerRatio: { what: 'ratio of engine to roller speed', unit: '', low: 0.05, high: 200 },
  rollerInertiaKgM2: { what: 'roller inertia', unit: 'kg·m²', low: 0.01, high: 10_000 },
  readoutScale: { what: 'read-out scale', unit: '', low: 0.2, high: 5 },
  elevationM: { what: 'elevation', unit: 'm', low: -450, high: 6000 },
  roadKmH: { what: 'road speed', unit: 'km/h', low: 1, high: 500 },
  roadSeconds: { what: 'time of a pass', unit: 's', low: 0.3, high: 120 },
  overallRatio: { what: 'ratio of engine to wheel', unit: '', low: 0.5, high: 60 },
  tyreRadiusM: { what: 'rolling radius of the tyre', unit: 'm', low: 0.1, high: 1 },
  dragAreaM2: { what: 'drag area', unit: 'm²', low: 0.05, high: 10 },
  rolling: { what: 'rolling coefficient', unit: '', low: 0.001, high: 0.1 },
  averagingRpm: { what: 'averaging width', unit: 'rpm', low: 0, high: 2000 },
} as const satisfies Record<string, Range>;

export type PlausibleQuantity = keyof typeof PLAUSIBLE;

/**
 * Why a value cannot be what it is said to be, in a sentence without a full stop; null: it can.
 *
 * @example implausible('pressureHpa', 29.92) // '29.92 hPa is outside 500–1100 hPa for station pressure; it looks like inHg'
 */
export function implausible(quantity: PlausibleQuantity, value: number): string | null {
  const { what, unit, low, high, looksLike }: Range = PLAUSIBLE[quantity];
  if (!Number.isFinite(value)) return `${what} is no finite number`;
  if (value >= low && value <= high) return null;
  const hint = looksLike?.find((like) => value >= like.low && value <= like.high)?.hint;
  const shown = Math.abs(value) >= 1e12 ? value.toExponential(1) : String(Number(value.toPrecision(6)));
  const dimension = unit === '' ? '' : ` ${unit}`;
  return `${shown}${dimension} is outside ${low}–${high}${dimension} for ${what}${hint ? `; it looks like ${hint}` : ''}`;
}

const FIRST_INSTANT = Date.UTC(1990, 0, 1);
const LAST_INSTANT = Date.UTC(2100, 0, 1);

/**
 * Why a text is no instant of a test day: ISO 8601, 1990 to 2100.
 * @example implausibleInstant('2026-05-02T08:00:00Z') // null
 */
export function implausibleInstant(text: string): string | null {
  const at = text.length <= 40 && /^\d{4}-\d{2}-\d{2}/.test(text) ? Date.parse(text) : NaN;
  if (Number.isNaN(at)) return `"${text.slice(0, 40)}" is not a date and time (ISO 8601)`;
  return plausibleInstantMs(at) ? null : `${text} is outside the years 1990 to 2100`;
}

/**
 * Whether milliseconds since 1970 are an instant of a test day.
 * @example plausibleInstantMs(Date.UTC(1989, 0, 1)) // false
 */
export function plausibleInstantMs(at: number): boolean {
  return at >= FIRST_INSTANT && at < LAST_INSTANT;
}

/**
 * Why a text is no IANA time zone that this machine knows.
 * @example implausibleTimeZone('Europe/Lisbon') // null
 */
export function implausibleTimeZone(text: string): string | null {
  const wrong = `"${text.slice(0, 40)}" is no time zone such as Europe/Lisbon`;
  if (text.length > 64) return wrong;
  try {
    new Intl.DateTimeFormat('en-US', { timeZone: text });
    return null;
  } catch {
    return wrong;
  }
}

/**
 * Why two numbers are no window of engine speed.
 * @example implausibleWindow([3000, 6500]) // null
 */
export function implausibleWindow(window: unknown): string | null {
  if (!Array.isArray(window) || window.length !== 2 || !window.every((v) => typeof v === 'number'))
    return 'a window is two engine speeds, such as [3000, 7000]';
  const [low, high] = window as [number, number];
  const wrong = implausible('engineRpm', low) ?? implausible('engineRpm', high);
  if (wrong) return wrong;
  return high > low && low > 0 ? null : 'a window rises from a lower to a higher engine speed';
}

/**
 * What a text must not hold: NUL cannot be stored, and a lone surrogate is half a character.
 * @example implausibleText('as arrived') // null
 */
export function implausibleText(text: string, most: number = LIMITS.textCharacters): string | null {
  if (text.length > most) return `a text of ${text.length} characters; at most ${most} are kept`;
  if (text.includes('\0')) return 'a text with a NUL character';
  return /\p{Surrogate}/u.test(text) ? 'a text with half a character (a lone surrogate)' : null;
}
