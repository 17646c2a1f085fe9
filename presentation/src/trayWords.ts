/** Why a file of a watched folder became no pull. */
export type TrayReason = 'no-job' | 'no-round' | 'unreadable' | 'shape-unknown' | 'numbers-unknown' | 'pulling';

const WORDS: Readonly<Record<TrayReason, string>> = {
  'no-job': 'No car is in this bay. Put its job on the bay, begin a round, and bring the file in.',
  'no-round': 'No round is open in this bay. Begin one, and bring the file in.',
  unreadable: 'It cannot be read.',
  'shape-unknown':
    'Nobody has said yet what files of this kind hold. Look at it once; the next ones come in by themselves.',
  'numbers-unknown': 'It does not say how its numbers are corrected, as the others of its kind do. Look at it.',
  pulling: 'The bay itself was recording a pull. Bring the file in afterwards.',
};

/** Why a file waits in the tray, and what to do. @param said what the reader says of a file that it cannot read */
export function trayWords(code: TrayReason, said: string | null): string {
  return code === 'unreadable' && said ? said : WORDS[code];
}

/** What became of a file of a watched folder. */
export function takenWords(taken: {
  readonly outcome: 'pull' | 'tray' | 'known';
  readonly pulls: readonly string[];
  readonly code: TrayReason | null;
  readonly message: string | null;
}): string {
  if (taken.outcome === 'tray') return `in the tray. ${taken.code ? trayWords(taken.code, taken.message) : ''}`.trim();
  const names = taken.pulls.map((key) => key.replace('-', '·')).join(', ');
  return taken.outcome === 'pull' ? `taken as ${names}` : names ? `known already as ${names}` : 'known already';
}
