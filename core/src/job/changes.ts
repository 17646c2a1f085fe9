import { STATE_FIELDS, type Setup, type StateField } from './job.ts';

export const CHANGE_KINDS = [
  'part-fitted',
  'part-removed',
  'tune',
  'fuel',
  'fluid',
  'tyre',
  'hood',
  'fan',
  'safeties',
  'controller',
  'other',
] as const;
export type ChangeKind = (typeof CHANGE_KINDS)[number];

/** One thing that was changed for a setup against its parent. */
export interface Change {
  readonly kind: ChangeKind;
  /** The fitted or removed part by its name; null for every other kind, and for a part that was not named. */
  readonly part: string | null;
  /** The item as it stands in the column `changes` of a package, blanks around it included. */
  readonly text: string;
}

/** What may differ between setups on purpose: the recorded states, and the averaging of whatever made an imported curve. */
export const DECLARABLE_STATES = [...STATE_FIELDS, 'averagingRpm'] as const;
export type DeclarableState = StateField | 'averagingRpm';

/** How an item of each kind begins in the column (docs/job-package.md, `changes`). */
const BEGINS: Readonly<Record<Exclude<ChangeKind, 'other'>, string>> = {
  'part-fitted': 'part fitted',
  'part-removed': 'part removed',
  tune: 'tune',
  fuel: 'fuel',
  fluid: 'fluid',
  tyre: 'tyre',
  hood: 'hood',
  fan: 'fan',
  safeties: 'safeties',
  controller: 'controller',
};

/** Kinds that older packages did not have: there such a word begins an item only with a colon behind it. */
const LATER: readonly ChangeKind[] = ['fluid', 'tyre', 'hood', 'fan', 'safeties', 'controller'];

const isPart = (kind: ChangeKind): boolean => kind === 'part-fitted' || kind === 'part-removed';

/** An item of the column: a kind's beginning as a word of its own, and for a part the name after the colon. */
const ITEM = new RegExp(
  String.raw`^\s*(?:(part fitted|part removed|tune|fuel)\b|(${LATER.join('|')})(?=\s*:))?(?:\s*:)?\s*([^]*?)\s*$`,
  'i',
);

/**
 * The items of the column `changes` of a package, separated by semicolons or line ends. Blank items stay, so that a package leaves
 * as it came.
 * @example changesIn('part fitted: pump; tune: rev 4')[0] // { kind: 'part-fitted', part: 'pump', text: 'part fitted: pump' }
 */
export function changesIn(column: string): Change[] {
  if (column === '') return [];
  return column.split(/;|\r?\n/).map((text) => {
    const [, first, later, rest] = ITEM.exec(text)!;
    const begins = (first ?? later)?.toLowerCase();
    const kind = (Object.keys(BEGINS) as (keyof typeof BEGINS)[]).find((k) => BEGINS[k] === begins);
    return { kind: kind ?? 'other', part: kind && isPart(kind) && rest ? rest : null, text };
  });
}

/**
 * The column `changes` of a package.
 * @example changesColumn(changesIn('part fitted: pump;tune 4')) // 'part fitted: pump;tune 4'
 */
export function changesColumn(changes: readonly Change[]): string {
  return changes.map(({ text }) => text).join(';');
}

/**
 * The changes in one line, as a person reads them.
 * @example changesText(changesIn('part fitted: pump;tune 4')) // 'part fitted: pump; tune 4'
 */
export function changesText(changes: readonly Change[]): string {
  return changes.flatMap(({ text }) => text.trim() || []).join('; ');
}

/**
 * A change of a kind that somebody chose, in the words they typed; semicolons and line ends, which separate items, become commas.
 * @example changeOf('part-fitted', 'pump').text // 'part fitted: pump'
 */
export function changeOf(kind: ChangeKind, words: string): Change {
  const plain = words
    .trim()
    .split(/\s*(?:;|\r?\n)\s*/)
    .join(', ');
  return {
    kind,
    part: isPart(kind) && plain ? plain : null,
    text: kind === 'other' ? plain : plain ? `${BEGINS[kind]}: ${plain}` : BEGINS[kind],
  };
}

/**
 * What a person reads or types of a change beside its kind.
 * @example wordsOf(changesIn(' tune: rev 4')[0]) // 'rev 4'
 */
export function wordsOf({ kind, part, text }: Change): string {
  if (part !== null) return part;
  return kind === 'other' ? text.trim() : ITEM.exec(text)![3]!;
}

/** Words by which an item of the column names a state. A fitted part that happens to bear the word does not name it. */
const NAMED_BY: Readonly<Record<DeclarableState, RegExp>> = {
  fuel: /\b(fuel|octane|petrol|gasoline|diesel)\b/i,
  tuneDigest: /\b(re)?(tune|tuned|map|calibration)\b/i,
  hood: /\b(hood|bonnet)\b/i,
  fan: /\b(fan|fans)\b/i,
  safeties: /\bsafet(y|ies)\b/i,
  controllerState: /\b(controller|reset|learned|ecu)\b/i,
  loadSetting: /\b(load|ramp)\b/i,
  tyrePressureKpa: /\b(tyres?|tires?)\b/i,
  gear: /\bgear\b(?!\s*(oil|ratio|lube))/i,
  averagingRpm: /\baveraging\b/i,
};

/** The kinds that are a change of a state by themselves. */
const OF_STATE: Readonly<Partial<Record<DeclarableState, ChangeKind>>> = {
  ...{ fuel: 'fuel', tuneDigest: 'tune', hood: 'hood', fan: 'fan', safeties: 'safeties' },
  ...{ controllerState: 'controller', tyrePressureKpa: 'tyre' },
};

/**
 * The states that the items of a column name. Asked once, where a package without the column `declares` is read; from then on a setup
 * carries the states it declares (`Setup.declares`), and nobody reads the items for them.
 * @example statesNamed(changesIn('part fitted: electric fan; fuel: 98')) // ['fuel']
 */
export function statesNamed(changes: readonly Change[]): DeclarableState[] {
  const items = changes.filter(({ kind, text }) => !isPart(kind) && !/^\s*part\b/i.test(text));
  return DECLARABLE_STATES.filter((state) =>
    items.some(({ kind, text }) => kind === OF_STATE[state] || NAMED_BY[state].test(text)),
  );
}

/**
 * Changes and declared states of a setup from the column `changes` alone.
 * @example declared('fuel: 98').declares // ['fuel']
 */
export function declared(column: string): { changes: Change[]; declares: DeclarableState[] } {
  const changes = changesIn(column);
  return { changes, declares: statesNamed(changes) };
}

/**
 * The changes of a setup along its parents, down to but without the baseline; blank items are left out.
 * @example changesAgainst([newSetup('A', 'x'), { ...newSetup('B', 'y', 'A'), ...declared('part fitted: pump') }], 'B', 'A').length // 1
 */
export function changesAgainst(setups: readonly Setup[], id: string, baseline: string): Change[] {
  return setupLine(setups, id, baseline)
    .flatMap(({ changes }) => changes)
    .filter(({ text }) => text.trim() !== '');
}

/**
 * The states that a setup or one of its parents declares to differ from the baseline.
 * @example statesDeclared([newSetup('A', 'x'), { ...newSetup('B', 'y', 'A'), ...declared('fuel: 98') }], 'B', 'A') // ['fuel']
 */
export function statesDeclared(setups: readonly Setup[], id: string, baseline: string): DeclarableState[] {
  const all = setupLine(setups, id, baseline).flatMap(({ declares }) => declares);
  return DECLARABLE_STATES.filter((state) => all.includes(state));
}

/**
 * A setup after its parents, oldest first, without the baseline and what is above it. A circle ends.
 * @example setupLine([newSetup('A', 'x'), newSetup('B', 'y', 'A'), newSetup('C', 'z', 'B')], 'C', 'A').map((s) => s.id) // ['B', 'C']
 */
export function setupLine(setups: readonly Setup[], id: string, baseline: string): Setup[] {
  const line: Setup[] = [];
  for (let at: string | null = id; at !== null && at !== baseline;) {
    const setup = setups.find((s) => s.id === at);
    if (!setup || line.includes(setup)) break;
    line.unshift(setup);
    at = setup.parentId;
  }
  return line;
}
