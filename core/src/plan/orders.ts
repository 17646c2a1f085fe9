import type { PlanShape } from '../bay/jobDay.ts';
import type { PlanStep } from '../job/job.ts';

/** What an order of rounds is made of. */
export interface OrderRequest {
  readonly baseline: string;
  /** Candidates in the order in which they go on. */
  readonly candidates: readonly string[];
  /** Return checks in the order in which they are made; a plan that needs more of them names them `A3`, `A4`. */
  readonly returnChecks: readonly string[];
  readonly settle: number;
  readonly counted: number;
  /** Rounds that somebody put in order by hand. */
  readonly own?: readonly PlanStep[];
}

/**
 * Rounds with those of the baseline after the first named as return checks, in order; a candidate's second round bears its own letter.
 * @example numberedReturns([{ setup: 'A', settle: 2, counted: 3 }, { setup: 'B', settle: 2, counted: 3 }, { setup: 'A', settle: 2, counted: 2 }], { baseline: 'A', returnChecks: [] }).map((s) => s.setup) // ['A', 'B', 'A2']
 */
export function numberedReturns(
  steps: readonly PlanStep[],
  { baseline, returnChecks }: Pick<OrderRequest, 'baseline' | 'returnChecks'>,
): PlanStep[] {
  let k = -1;
  return steps.map((s) => {
    if (s.setup !== baseline && !returnChecks.includes(s.setup) && !new RegExp(`^${baseline}\\d+$`).test(s.setup))
      return s;
    k += 1;
    return { ...s, setup: k === 0 ? baseline : (returnChecks[k - 1] ?? `${baseline}${k + 1}`) };
  });
}

/**
 * The rounds of a shape of day. Of several parts: one return at the end, the baseline once more in the middle, or after every second
 * part; a search over sequences finds nothing better (docs/method.md, Orders).
 * @example planOrder('middle', { baseline: 'A', candidates: ['B', 'C', 'D'], returnChecks: [], settle: 2, counted: 3 }).map((s) => s.setup) // ['A', 'B', 'C', 'A2', 'D', 'A3']
 */
export function planOrder(
  shape: PlanShape,
  { baseline, candidates, returnChecks, settle, counted, own }: OrderRequest,
): PlanStep[] {
  const round = (setup: string): PlanStep => ({ setup, settle, counted });
  // A return check is one pull shorter, as in the default plan 3 + 3 + 2.
  const check = (k: number): PlanStep => ({
    setup: returnChecks[k] ?? `${baseline}${k + 2}`,
    settle,
    counted: Math.max(2, counted - 1),
  });
  // Where everything is made twice, every round is as long as the first; so is the one that several parts rest on.
  const full = (k: number): PlanStep => ({ ...check(k), counted });
  const first = round(baseline);
  const half = Math.ceil(candidates.length / 2);
  switch (shape) {
    case 'return':
      return [first, ...candidates.map(round), check(0)];
    case 'middle':
      return [first, ...candidates.slice(0, half).map(round), full(0), ...candidates.slice(half).map(round), check(1)];
    case 'second':
      return [
        first,
        ...candidates.flatMap((c, i) => {
          const last = i === candidates.length - 1;
          const due = i % 2 === 1 || last;
          const k = Math.ceil((i + 1) / 2) - 1;
          return [round(c), ...(due ? [last ? check(k) : full(k)] : [])];
        }),
      ];
    case 'twice':
      return [first, ...candidates.map(round), full(0), ...candidates.map((c) => round(`${c}2`)), full(1)];
    case 'hold':
      return [baseline, ...candidates].flatMap((setup) => [round(setup), round(setup)]);
    case 'plain':
      return [first, ...candidates.map(round)];
    case 'own':
      return [...(own ?? [first, ...candidates.map(round), check(0)])];
  }
}
