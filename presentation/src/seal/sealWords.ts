import type { SealCheck } from '@prandel/core';

/** One check of a package or a report in one line of plain words. */
export function sealCheckWords({ code, state, parameters }: SealCheck): string {
  const of = (name: string) => String(parameters[name] ?? '');
  switch (code) {
    case 'no-seal':
      return 'This package bears no seal: nobody signed what it says.';
    case 'signature':
      return state === 'holds'
        ? `The seal is signed by the key of ${of('shop')}, and nothing in it was changed since.`
        : 'The signature of the seal does not hold: the seal was changed, or somebody else made it.';
    case 'resources':
      return `All ${of('files')} files are as they were sealed.`;
    case 'resource-changed':
      return `${of('path')} was changed after it was sealed.`;
    case 'resource-missing':
      return `${of('path')} was sealed and is missing now.`;
    case 'resource-added':
      return `${of('path')} was put in after the package was sealed.`;
    case 'no-log':
      return 'There is no log of what happened, so nothing shows whether pulls were left out.';
    case 'log-chain':
      return state === 'holds'
        ? `The log's ${of('events')} events hang together: none was changed, taken out or put in between.`
        : `The log does not hold at row ${of('row')}. ${of('why')}`;
    case 'log-head':
      return state === 'holds'
        ? `The log ends where it ended when it was sealed, with event ${of('events')}.`
        : `The log was sealed with ${of('sealed')} events and does not end there now: it has ${of('events')}.`;
    case 'pulls':
      return `All ${of('pulls')} pulls are as the log took them in: their samples, and whether and under which conditions they count.`;
    case 'pull-samples':
      return `The samples of pull ${of('pull')} are not those that the log took in.`;
    case 'pull-facts':
      return `What is said of pull ${of('pull')} (its setup, place, status or conditions) is not what the log says.`;
    case 'pull-missing':
      return `The log knows pull ${of('pull')}; it was taken out of the package.`;
    case 'pull-unlogged':
      return `For ${of('pulls')} ${of('pulls') === '1' ? 'pull' : 'pulls'} the log keeps no digest: it was written before logs did, or the pulls were put in past it.`;
    case 'verdicts':
      return Number(parameters.verdicts) === 1
        ? 'The verdict, worked out anew from the pulls, is the one that was sealed, to every printed digit.'
        : `All ${of('verdicts')} verdicts, worked out anew from the pulls, are those that were sealed, to every printed digit.`;
    case 'verdict-differs':
      return of('candidate') === ''
        ? `${of('sealed')} verdicts were sealed; the pulls give ${of('made')}.`
        : `Sealed for ${of('candidate')}: ${of('sealed')}. The pulls give ${of('made') || 'no such verdict'}.`;
    case 'verdicts-elsewhere':
      return 'A report holds no pulls: check the package to have its verdicts worked out anew.';
    case 'report':
      return state === 'holds'
        ? 'The report is the one that was sealed, to the last character.'
        : 'The report was changed after it was sealed.';
    case 'report-elsewhere':
      return 'The report itself lies beside the package: check its file too.';
    default:
      return code satisfies never;
  }
}

/** What a whole check came to. */
export function sealStanding(checks: readonly SealCheck[], sealed: boolean): { holds: boolean; words: string } {
  const broken = checks.filter((c) => c.state === 'fails').length;
  if (broken > 0) return { holds: false, words: 'Does not hold' };
  return sealed
    ? { holds: true, words: 'The seal holds' }
    : { holds: true, words: 'Not sealed; nothing contradicts itself' };
}

/** The mark of a seal in a 32 × 32 box: a closed ring with a notch at the top right. */
export const SEAL_RING = 'M20.6 5 A12 12 0 1 0 27 11.4 L23.3 12.4 L21.9 8.7 Z';

/** The same ring open: what does not hold. */
export const OPEN_RING = 'M16 4 A12 12 0 1 0 27.6 13';

/** What no seal proves. */
export const NOT_PROVEN =
  'A seal does not prove that the clock was right, nor the honesty of whoever held the throttle. Photos of the fitting, and a stretch of the log in which nobody touched the car, are the evidence for that.';
