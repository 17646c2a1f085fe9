/** What a file says of the moment at which it was recorded. */
export interface RecordedAt {
  /** Date and time of day as they stand there, `2026-11-26T14:32:10`; of a zone nothing is known unless `offset` says so. */
  readonly local: string;
  /** Distance from UTC as it stands there, `Z` or `+01:00`; null: the clock of the shop. */
  readonly offset: string | null;
  readonly source: 'header' | 'time-column' | 'file-name' | 'file-date';
  /** The words that it was read from. */
  readonly words: string;
  /** Day and month may be the other way round: both are at most 12, and nothing tells which is first. */
  readonly dayMonthUnsure: boolean;
}

interface Day {
  /** As it stands in the text. */
  readonly text: string;
  readonly iso: string;
  readonly unsure: boolean;
}

/** Lines that tell of another moment than the recording's. */
const OTHER_MOMENT =
  /calibrat|kalibrier|export|print|druck|gedruckt|version|licen|lizenz|service|birth|geburt|delivered|baujahr|installed/i;
/** Words that say which of several moments is the recording's. */
const OF_RECORDING = /record|start|run|pull|test|messung|aufnahme|gemessen|measured|begin/i;

const TWO = String.raw`(\d{1,2})`;
/** A date with its year first, with dots, or with slashes or hyphens. Not within a longer number. */
const YEAR_FIRST = new RegExp(String.raw`(?<!\d)(\d{4})([-/.])${TWO}\2${TWO}(?!\d)`);
const YEAR_LAST = new RegExp(String.raw`(?<!\d)${TWO}([-/.])${TWO}\2(\d{4})(?!\d)`);
const COMPACT = /(?<!\d)((?:19|20)\d{2})(\d{2})(\d{2})(?!\d)/;
/** A time of day with colons; in the names of files also with other marks, or none. */
const CLOCK =
  /(?<![\d:])(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,]\d+)?)?(?![\d:])\s*([ap]\.?m\.?)?\s*(Z|[+-]\d{2}:?\d{2})?(?![a-z\d])/i;
const NAME_CLOCK = /(?<!\d)(\d{1,2})([-._h])(\d{2})(?:[-._m](\d{2}))?(?!\d)/i;
const NAME_COMPACT_CLOCK = /(?<!\d)(\d{2})(\d{2})(\d{2})?(?!\d)/;
/** What may stand between a date and its time of day, or before a time of day on a line of its own: another word makes it a ratio, a duration or the number of a pull. */
const CLOCK_LABEL =
  /^(?:t|at|um|on|am|le|(?:start|record(?:ed)?|begin)?[ ]?(?:time|zeit)?(?: of day)?|uhr|uhrzeit|clock|heure|hora)?$/i;

/**
 * When a file was recorded, from the lines above its numbers, else from its name. A date alone tells no order of pulls: without a time
 * of day there is no answer. Which of day and month comes first: dots put the day first; a number above 12 tells it; a 12-hour clock goes with
 * the month first (common practice, no source); else the day is taken and marked unsure.
 * @param preamble lines above the header of the columns
 * @returns null where neither tells both date and time of day
 */
export function recordedAt(preamble: readonly string[], fileName: string): RecordedAt | null {
  return inLines(preamble) ?? inName(fileName);
}

/** The same from lines alone. */
export function inLines(preamble: readonly string[]): RecordedAt | null {
  const lines = preamble.filter((line) => !OTHER_MOMENT.test(line));
  const ordered = [...lines.filter((l) => OF_RECORDING.test(l)), ...lines.filter((l) => !OF_RECORDING.test(l))];
  for (const line of ordered) {
    const found = momentIn(line, CLOCK);
    if (found) return { ...found, source: 'header', words: plain(line) };
  }
  // Date and time of day on lines of their own.
  const dated = ordered.find((line) => dayIn(line, false));
  const timed = ordered.find((line) => isLabel(line.replace(CLOCK, '')) && clockIn(line, CLOCK));
  if (dated !== undefined && timed !== undefined) {
    const found = momentIn(`${dated} ${timed}`, CLOCK);
    if (found) return { ...found, source: 'header', words: `${plain(dated)} · ${plain(timed)}` };
  }
  return null;
}

/** The same from the name of the file alone. */
export function inName(fileName: string): RecordedAt | null {
  const name = fileName.replace(/^.*[\\/]/, '').replace(/\.[a-z]\w{0,4}$/i, '');
  const found = momentIn(name, CLOCK) ?? momentIn(name, NAME_CLOCK) ?? momentIn(name, NAME_COMPACT_CLOCK);
  return found && { ...found, source: 'file-name', words: name };
}

/** A day without a time of day, of lines or of a name, `2026-11-26`; null where none stands there. */
export function dayOfLines(preamble: readonly string[], fileName: string): { iso: string; unsure: boolean } | null {
  for (const line of [...preamble.filter((l) => !OTHER_MOMENT.test(l)), fileName]) {
    const day = dayIn(line, false);
    if (day) return { iso: day.iso, unsure: day.unsure };
  }
  return null;
}

/** A line without the mark of a comment. */
const plain = (line: string) => line.replace(/^[\s#%;/*]+/, '').trim();

type Found = Pick<RecordedAt, 'local' | 'offset' | 'dayMonthUnsure'>;

/** Date and time of day of a text, with nothing but a label between them. */
function momentIn(text: string, clock: RegExp): Found | null {
  const half = /\d\s*[ap]\.?m\.?(?![a-z])/i.test(text);
  const day = dayIn(text, half);
  if (!day) return null;
  const at = text.indexOf(day.text);
  const [before, after] = [text.slice(0, at), text.slice(at + day.text.length)];
  const [earlier, later] = [clock.exec(before), clock.exec(after)];
  const found =
    later && isLabel(after.slice(0, later.index))
      ? later
      : earlier && isLabel(before.slice(earlier.index + earlier[0].length))
        ? earlier
        : null;
  const time = found && clockOf(found, clock);
  return time && { local: `${day.iso}T${time.local}`, offset: time.offset, dayMonthUnsure: day.unsure };
}

const isLabel = (text: string) => !/\d/.test(text) && CLOCK_LABEL.test(text.replace(/[^\p{L}]+/gu, ' ').trim());

function dayIn(text: string, monthFirst: boolean): Day | null {
  const first = YEAR_FIRST.exec(text);
  if (first) return dayOf(first[0], first[1]!, first[3]!, first[4]!, false);
  const last = YEAR_LAST.exec(text);
  if (last) {
    const [all, a, mark, b, year] = last as unknown as [string, string, string, string, string];
    const dayTold = mark === '.' || Number(a) > 12;
    const monthTold = !dayTold && Number(b) > 12;
    if (monthTold || (!dayTold && monthFirst)) return dayOf(all, year, a, b, false);
    return dayOf(all, year, b, a, !dayTold && a !== b);
  }
  const compact = COMPACT.exec(text);
  return compact && dayOf(compact[0], compact[1]!, compact[2]!, compact[3]!, false);
}

/** A day of the calendar; null where there is none such. */
function dayOf(text: string, year: string, month: string, day: string, unsure: boolean): Day | null {
  const at = new Date(Date.UTC(Number(year), Number(month) - 1, Number(day)));
  const iso = `${year}-${month.padStart(2, '0')}-${day.padStart(2, '0')}`;
  return Number.isFinite(at.getTime()) && at.toISOString().startsWith(iso) ? { text, iso, unsure } : null;
}

function clockIn(text: string, clock: RegExp) {
  const found = clock.exec(text);
  return found && clockOf(found, clock);
}

/** A time of day; null where there is none such. */
function clockOf(found: RegExpExecArray, clock: RegExp): { local: string; offset: string | null } | null {
  const of = clock === NAME_CLOCK ? [found[1], found[3], found[4]] : [found[1], found[2], found[3]];
  const [hour, minute, second] = of.map((v) => Number(v ?? 0)) as [number, number, number];
  const half = clock === CLOCK ? found[4]?.toLowerCase().charAt(0) : undefined;
  if (half && (hour < 1 || hour > 12)) return null;
  const full = half ? (hour % 12) + (half === 'p' ? 12 : 0) : hour;
  if (full > 23 || minute > 59 || second > 59) return null;
  const offset = clock === CLOCK ? (found[5]?.toUpperCase() ?? null) : null;
  const two = (v: number) => String(v).padStart(2, '0');
  return {
    local: `${two(full)}:${two(minute)}:${two(second)}`,
    offset: offset && offset !== 'Z' ? `${offset.slice(0, 3)}:${offset.slice(-2)}` : offset,
  };
}
