import { badPullsOf, type BadPull } from './badPulls.ts';
import { isOfRoad, isOfRollOns } from '../measures/declaredMeasure.ts';
import { margins } from './decide.ts';
import { inEngine } from './endpoint.ts';
import { measureDay, type MeasuredDay } from './measuredDay.ts';
import { passesOn } from './roadSelection.ts';
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

/** The passes of a road measure; they have no window, and what else was pulled is not of it. */
function measuredOnRoad(whole: Selection, road: readonly Candidate[], settings: AnalysisSettings): Measured {
  const { all, used } = passesOn(road, settings.endpoint.measure);
  const timesKnown = all.every((c) => c.pull.startedAt !== null);
  const selection = {
    ...whole,
    all,
    used,
    rollOns: [],
    window: NO_WINDOW,
    declaredWindow: null,
    windowShare: 1,
    timesKnown,
  };
  const day = measureDay(used, NO_WINDOW, settings);
  const own = margins(settings.endpoint.measure.meaningful, settings.endpoint.scale);
  return { settings, selection, day, suspected: day ? badPullsOf(day, settings, own) : [], margins: own, unread: [] };
}

/** Leaves out what does not read on the measure, and prepares and fits the rest. */
/** @param road the passes of the job (`roadCandidates`) */
export function measuredOn(whole: Selection, road: readonly Candidate[], settings: AnalysisSettings): Measured {
  const { endpoint } = settings;
  const { id, meaningful } = endpoint.measure;
  if (isOfRoad(id)) return measuredOnRoad(whole, road, settings);
  const timed = isOfRollOns(id);
  const pool = timed ? whole.rollOns : whole.used;
  // What is read against time has no window.
  const window = timed ? NO_WINDOW : whole.window;
  const reads = (c: Candidate) => window !== null && Number.isFinite(inEngine(endpoint, endpoint.read(c, window)));
  const unread = window ? pool.filter((c) => !reads(c)) : [];
  // A side of which one roll-on never got there has no time: the slowest are missing from what is left.
  const lost = timed ? unread.map((c) => c.side) : [];
  const used = pool.filter((c) => reads(c) && !lost.includes(c.side));
  const selection = timed ? { ...whole, used, window, declaredWindow: null, windowShare: 1 } : { ...whole, used };
  const day = window && id !== 'fade' ? measureDay(used, window, settings) : null;
  const own = margins(meaningful, endpoint.scale);
  return { settings, selection, day, suspected: day ? badPullsOf(day, settings, own) : [], margins: own, unread };
}

const NO_WINDOW: readonly [number, number] = [0, 0];
