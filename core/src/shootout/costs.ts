import { NO_COSTS, type Job, type Setup } from '../job/job.ts';
import { setupLine } from '../job/changes.ts';

/** Where a figure comes from: the fitting clock, the part's record, or somebody typed it. */
export type CostSource = 'clock' | 'fitting' | 'record' | 'typed';

/** What the shop's record says of the parts of a setup. */
export interface RecordedPart {
  readonly setupId: string;
  readonly price: number | null;
  readonly currency: string | null;
  readonly hours: number | null;
}

/** Why a sum is not known or not whole. */
export type CostGap = 'parts' | 'hours' | 'rate' | 'currencies';

/** What a setup costs, all in. */
export interface SetupCost {
  /** Null where nobody named one; with two there is no sum. */
  readonly currency: string | null;
  readonly parts: number | null;
  readonly partsFrom: CostSource | null;
  readonly adapters: number;
  readonly consumables: number;
  readonly tune: number;
  readonly hours: number | null;
  readonly hoursFrom: CostSource | null;
  /** Hours times the rate. */
  readonly labour: number | null;
  /** Null where something that belongs to it is not known: `gaps` says what. */
  readonly total: number | null;
  readonly gaps: readonly CostGap[];
}

const HOUR_MS = 3_600_000;
const sum = (values: readonly number[]) => values.reduce((a, b) => a + b, 0);

/** Hours on the clock from the first fitting of a setup until it was pulled: fitting it once more later costs nobody anything. */
function clockedHours(job: Job, id: string): number | null {
  const firstPull = Math.min(
    ...job.pulls.flatMap((p) => (p.setupId === id && p.startedAt !== null ? [Date.parse(p.startedAt)] : [])),
  );
  const own = (job.day?.fittings ?? []).flatMap(({ setup, startedAt, stoppedAt }) =>
    setup === id && stoppedAt !== null && Date.parse(startedAt) < firstPull
      ? [(Date.parse(stoppedAt) - Date.parse(startedAt)) / HOUR_MS]
      : [],
  );
  return own.length > 0 ? sum(own) : null;
}

/** The first of some figures that is known, with where it comes from. */
function firstKnown(
  list: readonly (readonly [CostSource, number | null | undefined])[],
): { readonly value: number; readonly from: CostSource } | null {
  for (const [from, value] of list) if (value !== null && value !== undefined) return { value, from };
  return null;
}

/** What one step costs against its parent. A cure or a tune needs no part. */
function stepCost(job: Job, setup: Setup, recorded: readonly RecordedPart[]): SetupCost {
  const own = recorded.filter((r) => r.setupId === setup.id);
  const whole = (values: readonly (number | null)[]) =>
    values.length > 0 && values.every((v) => v !== null) ? sum(values) : null;
  const fittings = (job.day?.fittings ?? []).filter((f) => f.setup === setup.id && f.cost !== null);
  const parts = firstKnown([
    ['typed', setup.partCost],
    ['fitting', fittings.length > 0 ? sum(fittings.map((f) => f.cost!)) : null],
    ['record', whole(own.map((r) => r.price))],
  ]);
  const hours = firstKnown([
    ['clock', clockedHours(job, setup.id)],
    ['record', whole(own.map((r) => r.hours))],
    ['typed', setup.labourHours],
  ]);
  const needsPart = setup.changes.some((c) => c.kind === 'part-fitted') || setup.changes.length === 0;
  const { adapters, consumables, tune } = setup.costs ?? NO_COSTS;
  const rate = job.money?.hourlyRate ?? null;
  const labour = hours && rate !== null ? hours.value * rate : hours?.value === 0 ? 0 : null;
  const named = [
    ...(parts?.from === 'record' ? own.map((r) => r.currency) : [setup.currency]),
    labour === null || labour === 0 ? null : (job.money?.currency ?? null),
  ];
  const currencies = [...new Set(named.filter((c): c is string => Boolean(c?.trim())))];
  const gaps: CostGap[] = [
    ...(parts === null && needsPart ? (['parts'] as const) : []),
    ...(hours === null ? (['hours'] as const) : []),
    ...(hours && labour === null ? (['rate'] as const) : []),
    ...(currencies.length > 1 ? (['currencies'] as const) : []),
  ];
  const extras = { adapters: adapters ?? 0, consumables: consumables ?? 0, tune: tune ?? 0 };
  return {
    currency: currencies.length === 1 ? currencies[0]! : currencies.length === 0 ? (job.money?.currency ?? null) : null,
    parts: parts?.value ?? null,
    partsFrom: parts?.from ?? null,
    ...extras,
    hours: hours?.value ?? null,
    hoursFrom: hours?.from ?? null,
    labour,
    total: gaps.length > 0 ? null : (parts?.value ?? 0) + extras.adapters + extras.consumables + extras.tune + labour!,
    gaps,
  };
}

/**
 * What a setup costs against its parent alone, all in: parts, adapters and extra hardware, consumables, tune, fitting hours times rate.
 * Hours come from the fitting clock, else from the part's record, else as typed.
 * @example costOfStep({ ...newJob('1', 'x'), money: { currency: 'EUR', hourlyRate: 60 }, setups: [newSetup('A', 'a'), { ...newSetup('B', 'b', 'A'), partCost: 100, labourHours: 0.5, currency: 'EUR' }] }, 'B').total // 130
 */
export function costOfStep(job: Job, id: string, recorded: readonly RecordedPart[] = []): SetupCost | null {
  const setup = job.setups.find((s) => s.id === id);
  return setup ? stepCost(job, setup, recorded) : null;
}

/**
 * What a setup costs against the baseline: its own step and those of its parents.
 * @example costAgainst({ ...newJob('1', 'x'), setups: [newSetup('A', 'a'), newSetup('B', 'b', 'A')] }, 'B', 'A').gaps // ['parts', 'hours']
 */
export function costAgainst(
  job: Job,
  id: string,
  baseline: string,
  recorded: readonly RecordedPart[] = [],
): SetupCost | null {
  const steps = setupLine(job.setups, id, baseline).map((setup) => stepCost(job, setup, recorded));
  if (steps.length < 2) return steps[0] ?? null;
  const currencies = [...new Set(steps.flatMap((s) => s.currency ?? []))];
  const gaps = [
    ...new Set([...steps.flatMap((s) => s.gaps), ...(currencies.length > 1 ? ['currencies' as const] : [])]),
  ];
  const all = (of: (cost: SetupCost) => number | null) => {
    const values = steps.map(of);
    return values.every((v) => v !== null) ? sum(values) : null;
  };
  const only = (sources: readonly (CostSource | null)[]) => (new Set(sources).size === 1 ? sources[0]! : null);
  return {
    currency: currencies.length === 1 ? currencies[0]! : null,
    parts: all((s) => s.parts ?? (s.gaps.includes('parts') ? null : 0)),
    partsFrom: only(steps.map((s) => s.partsFrom)),
    ...{ adapters: all((s) => s.adapters)!, consumables: all((s) => s.consumables)!, tune: all((s) => s.tune)! },
    hours: all((s) => s.hours),
    hoursFrom: only(steps.map((s) => s.hoursFrom)),
    labour: all((s) => s.labour),
    total: gaps.length > 0 ? null : all((s) => s.total),
    gaps,
  };
}
