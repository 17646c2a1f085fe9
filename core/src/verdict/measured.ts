import { badPullsOf, type BadPull } from './badPulls.ts';
import { margins } from './decide.ts';
import { inEngine } from './endpoint.ts';
import { measureDay, type MeasuredDay } from './measuredDay.ts';
import type { Candidate, Selection } from './selection.ts';
import type { AnalysisSettings } from './settings.ts';

/** The pulls of a job on one of its measures. */
export interface Measured {
  readonly settings: AnalysisSettings;
  /** With the pulls that read on the measure. */
  readonly selection: Selection;
  readonly day: MeasuredDay | null;
  readonly suspected: readonly BadPull[];
  readonly margins: readonly [number, number];
  /** Pulls that would count and do not read on the measure. */
  readonly unread: readonly Candidate[];
}

/** Leaves out what does not read on the measure, and prepares and fits the rest. */
export function measuredOn(whole: Selection, settings: AnalysisSettings): Measured {
  const { endpoint } = settings;
  const { window } = whole;
  const reads = (c: Candidate) => window !== null && Number.isFinite(inEngine(endpoint, endpoint.read(c, window)));
  const unread = window ? whole.used.filter((c) => !reads(c)) : [];
  const selection = unread.length > 0 ? { ...whole, used: whole.used.filter(reads) } : whole;
  const fades = endpoint.measure.id === 'fade';
  const day = window && !fades ? measureDay(selection.used, window, settings) : null;
  const own = margins(endpoint.measure.meaningful, endpoint.scale);
  return { settings, selection, day, suspected: day ? badPullsOf(day, settings, own) : [], margins: own, unread };
}
