import { controlChart, type ChartSignal, type ControlChart } from './controlChart.ts';

/** A reading of a chart with where it came from. */
export interface ChartPoint {
  /** ISO 8601 instant. */
  readonly at: string;
  readonly value: number;
  /** The job that it was read from; null for a reading by hand. */
  readonly job: string | null;
  readonly name: string;
}

/** What somebody found who looked into a signal. */
export interface ChartAnswer {
  readonly answer: 'calibration' | 'sensor' | 'tyre' | 'nothing';
  readonly words: string;
  readonly who: string;
  readonly at: string;
  /** The last point that it answers for. */
  readonly until: string;
}

/** A stretch of a chart within which readings may be compared: one epoch, and nothing changed since. */
export interface ChartStretch {
  readonly epoch: string | null;
  readonly points: readonly ChartPoint[];
  readonly chart: ControlChart;
  /** Signals that nobody has answered. */
  readonly open: readonly ChartSignal[];
}

/** Answers after which readings are no longer those of before. */
const BEGINS_ANEW: readonly ChartAnswer['answer'][] = ['calibration', 'sensor', 'tyre'];

/**
 * Splits readings into stretches: a new epoch begins one, and so does an answer that says what was changed. A signal is open until
 * somebody has answered for its point.
 * @example chartStretches([], []) // []
 */
export function chartStretches(
  points: readonly (ChartPoint & { readonly epoch: string | null })[],
  answers: readonly ChartAnswer[],
): ChartStretch[] {
  const inOrder = points.toSorted((a, b) => Date.parse(a.at) - Date.parse(b.at));
  const answered = Math.max(-Infinity, ...answers.map((a) => Date.parse(a.until)));
  const changes = answers.filter((a) => BEGINS_ANEW.includes(a.answer)).map((a) => Date.parse(a.until));
  const keyOf = (p: (typeof inOrder)[number]) =>
    `${p.epoch ?? ''}/${changes.filter((until) => until < Date.parse(p.at)).length}`;
  const keys = [...new Set(inOrder.map(keyOf))];
  return keys.map((key) => {
    const own = inOrder.filter((p) => keyOf(p) === key);
    const chart = controlChart(own.map((p) => p.value));
    return {
      epoch: own[0]!.epoch,
      points: own.map(({ at, value, job, name }) => ({ at, value, job, name })),
      chart,
      open: chart.signals.filter((s) => Date.parse(own[s.index]!.at) > answered),
    };
  });
}
