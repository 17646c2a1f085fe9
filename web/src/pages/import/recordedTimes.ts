import type { Schemas } from '../../api/client.ts';
import { TIME_WORDS } from '../day/dayWords.ts';

type File = Pick<Schemas['StagedFile'], 'name' | 'pulls' | 'recorded'>;

/** What files say of when they were recorded. */
export interface RecordedTimes {
  readonly said: string;
  /** Why the times cannot be taken; empty where they can. */
  readonly problem: string;
  /** What to look at before they are taken. */
  readonly doubt: string;
}

/** Times of the files of one import; null where none says any. */
export function timesOf(files: readonly File[]): RecordedTimes | null {
  const said = files.flatMap((f) => (f.recorded ? [{ ...f.recorded, name: f.name }] : []));
  if (said.length === 0) return null;
  const ordered = [...said].sort((a, b) => a.local.localeCompare(b.local));
  const [first, last] = [ordered[0]!, ordered.at(-1)!];
  const [day, clock] = first.local.split('T') as [string, string];
  const [lastDay, lastClock] = last.local.split('T') as [string, string];
  const to = last === first ? '' : ` to ${lastDay === day ? '' : `${lastDay} `}${lastClock}`;
  const zone = first.offset === null ? '' : first.offset === 'Z' ? ' UTC' : ` UTC${first.offset}`;
  const silent = files.length - said.length;
  const several = files.find((f) => (f.pulls?.length ?? 0) > 1);
  const twin = ordered.find((f, i) => f.local === ordered[i - 1]?.local && f.offset === ordered[i - 1]?.offset);
  return {
    said: `Recorded ${day}, ${clock}${to}${zone}, as ${said.every((s) => s.source === first.source) ? TIME_WORDS[first.source] : 'the files'} say: “${first.words}”.`,
    problem:
      silent > 0
        ? `${silent} of ${files.length} files say no time, so these pulls come in without times.`
        : several
          ? `“${several.name}” holds ${several.pulls!.length} pulls and one time, so these pulls come in without times.`
          : twin
            ? `Two files say ${twin.local.replace('T', ', ')}, so these pulls come in without times.`
            : '',
    doubt: said.some((s) => s.dayMonthUnsure)
      ? 'Day and month may be the other way round: look before you take them.'
      : '',
  };
}
