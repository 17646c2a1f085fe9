import { chmod, mkdir, open } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import {
  DEMO_DAYS,
  foreignFile,
  foreignPull,
  PLAIN_SHAPE,
  simulateDay,
  type ForeignPull,
  type Shape,
} from '@prandel/simulator';

const USAGE = `usage: prandel stand-in FOLDER [--every SECONDS]
Writes the pulls of a made-up day into FOLDER as the software of foreign rollers would: one file a pull, in pieces, not to be read while
it is written, decimal commas. After each setup it waits for Enter, as a bay waits for the part to be fitted.`;

const PIECES = 4;
const PIECE_MS = 250;
const SHAPE: Shape = { ...PLAIN_SHAPE, language: 'de', clock: 'elapsed' };

/** A file that is written while others may not read it. */
export async function writeInPieces(
  path: string,
  content: Uint8Array,
  pause: (ms: number) => Promise<void>,
): Promise<void> {
  const file = await open(path, 'w', 0o200);
  try {
    const size = Math.ceil(content.length / PIECES);
    for (let at = 0; at < content.length; at += size) {
      await file.write(content.subarray(at, at + size));
      await pause(PIECE_MS);
    }
  } finally {
    await file.close();
  }
  await chmod(path, 0o644);
}

/** Pulls of the made-up day, made now: a gain of two per cent for B. */
export function standInPulls(now: Date): { setup: string; pull: ForeignPull }[] {
  const spec = DEMO_DAYS.find((d) => d.id === 'QG-0910-2')!;
  const day = simulateDay({ ...spec, seed: Math.floor(now.getTime() / 1000) % 100_000, effects: { B: () => 2 } });
  return day.pulls.map((pull) => ({ setup: pull.setupId, pull: foreignPull(day, pull, 0) }));
}

/** Wall clock of this computer, as such software prints it. */
const wall = (at: Date) => new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 19);
const wait = (ms: number) => new Promise<void>((done) => void setTimeout(done, ms));

/** Writes the day. @returns exit code */
export async function standInCommand(
  args: readonly string[],
  say: (line: string) => void,
  enter: () => Promise<void>,
): Promise<number> {
  let options;
  try {
    options = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: { every: { type: 'string', default: '20' } },
    });
  } catch (error) {
    say(`${(error as Error).message}\n${USAGE}`);
    return 2;
  }
  const { positionals, values } = options;
  const every = Number(values.every);
  if (positionals.length !== 1 || !(every >= 0)) {
    say(USAGE);
    return 2;
  }
  const folder = resolve(positionals[0]!);
  await mkdir(folder, { recursive: true });
  const pulls = standInPulls(new Date());
  for (const [k, { setup, pull }] of pulls.entries()) {
    if (pulls[k - 1]?.setup !== setup) {
      say(`Setup ${setup}: begin its round on the run sheet, then press Enter.`);
      await enter();
    } else await wait(every * 1000);
    const name = `lauf_${String(k + 1).padStart(2, '0')}.csv`;
    await writeInPieces(join(folder, name), foreignFile([{ ...pull, local: wall(new Date()) }], SHAPE), wait);
    say(`${name}: a pull of setup ${setup}`);
  }
  say('The day is over.');
  return 0;
}
