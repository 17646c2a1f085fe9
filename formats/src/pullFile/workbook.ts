import readWorkbook from 'read-excel-file/universal';
import { UnreadableError } from '../problem.ts';
import type { Written } from './readPullFile.ts';
import { unzip } from '../jobPackage/zip.ts';

/** A workbook of a pull has a few megabytes of text in it; ten thousand rows of twenty columns are eight. */
export const LARGEST_WORKBOOK_BYTES = 60 * 1024 * 1024;

type Cell = string | number | boolean | Date | null | undefined;

/** Whether bytes are a ZIP, as every XLSX is. */
export function isZip(head: Uint8Array): boolean {
  return head[0] === 0x50 && head[1] === 0x4b && (head[2] === 3 || head[2] === 5);
}

/**
 * The sheet of an XLSX that holds the numbers, as text of cells between tabs: dates as dates, formulas as what they came to, merged cells
 * in the first of them.
 * @throws UnreadableError for what is no workbook, for more than 60 MB unpacked, and where no sheet holds numbers
 */
export async function workbookText(bytes: Uint8Array): Promise<Uint8Array> {
  const parts = await unzip(bytes, { largest: LARGEST_WORKBOOK_BYTES, what: 'workbook' });
  if (![...parts.keys()].some((name) => name.startsWith('xl/')))
    throw new UnreadableError('This is a ZIP and no workbook. Drop it as a ZIP of pull files, or unpack it first.');
  let sheets: readonly { readonly sheet: string; readonly data: readonly (readonly Cell[])[] }[];
  try {
    sheets = (await readWorkbook(bytes.slice().buffer)) as typeof sheets;
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    throw new UnreadableError(`The workbook cannot be read (${why}). Export it again, or as CSV.`);
  }
  const numbers = sheets.map(
    ({ data }) => data.filter((row) => row.filter((c) => typeof c === 'number').length > 1).length,
  );
  const most = Math.max(0, ...numbers);
  if (most === 0) throw new UnreadableError('No sheet of the workbook holds rows of numbers.');
  const { data } = sheets[numbers.indexOf(most)]!;
  return new TextEncoder().encode(data.map((row) => row.map(written).join('\t').trimEnd()).join('\n'));
}

/** A file as text: an XLSX as what stands in its sheet, anything else as it is. @throws UnreadableError */
export async function asText(bytes: Uint8Array): Promise<{ text: Uint8Array; written: Written }> {
  return isZip(bytes)
    ? { text: await workbookText(bytes), written: 'workbook' }
    : { text: bytes, written: 'separated' };
}

function written(cell: Cell): string {
  if (cell instanceof Date) return wall(cell);
  return cell === null || cell === undefined ? '' : String(cell).replace(/[\t\r\n]+/g, ' ');
}

/** Days before 1900 are times of day alone: the calendar of workbooks begins there. */
function wall(at: Date): string {
  if (Number.isNaN(at.getTime())) return '';
  const [day, clock] = at.toISOString().slice(0, 23).split('T') as [string, string];
  if (day < '1900-01-02') return clock;
  return clock.startsWith('00:00:00') ? day : `${day} ${clock.replace(/\.000$/, '')}`;
}
