import {
  DEFAULT_METHOD,
  gateRows,
  gateVerdict,
  UNKNOWN_BAY,
  UNKNOWN_CARD,
  UNKNOWN_VEHICLE,
  type BayGateInput,
  type LiveSheet,
  type SheetState,
  type SheetVerdict,
} from '@prandel/core';

/** Made-up sheets for the tests of the run sheet. */
export const setups = [
  { id: 'A', label: 'belt-driven pump', returnsTo: null },
  { id: 'B', label: 'electric pump', returnsTo: null },
  { id: 'A2', label: 'return check', returnsTo: 'A' },
];
export const live = (value: number, ageS = 1) => ({ value, ageS });
export const input: BayGateInput = {
  method: DEFAULT_METHOD,
  sensors: { intake: true, coolant: true, oil: true },
  readings: { airC: live(22), pressureHpa: live(1003), intakeC: live(31), coolantC: live(91), oilC: live(96) },
  baseline: {
    pullName: 'A·3',
    airC: 22,
    factor: 0.991,
    intakeAboveAirC: 9,
    coolantC: 91,
    oilC: 97,
    densityAltitudeM: 380,
  },
  sinceLastPullS: 180,
  sinceOtherSetupS: null,
  coolDownS: 900,
  forecasts: {},
  setPoints: [{ key: 'fan', label: 'Fan', baseline: '3', now: '3', declared: false }],
  rollersSilent: false,
  settling: false,
  position: 3,
  wasOpen: false,
};

/** A sheet in the middle of B's round, with whatever a test wants different. */
export function sheetOf(state: SheetState, more: Partial<LiveSheet> = {}, gate: Partial<BayGateInput> = {}): LiveSheet {
  const rows = gateRows({ ...input, ...gate });
  const { waitS, reasons } = gateVerdict(rows);
  return {
    state,
    waitS,
    waitRangeS: null,
    reasons,
    rows,
    readings: input.readings,
    instruments: [],
    atMs: Date.UTC(2026, 10, 23, 14, 58),
    job: {
      id: 'x',
      version: 3,
      number: 'QG-1',
      title: 'Does it help?',
      vehicle: 'Tarn Vireo 1.8 roadster',
      card: { ...UNKNOWN_CARD, gear: '4', safeRpm: [1800, 7100], notes: 'Traction control off.' },
      rig: { bay: UNKNOWN_BAY, vehicle: UNKNOWN_VEHICLE },
      setups,
    },
    round: {
      setup: 'B',
      label: 'electric pump',
      number: 1,
      pulls: [
        { id: 'B-1', position: 1, status: 'settle', reason: null, marks: [], peakW: 117_000, odd: null },
        { id: 'B-2', position: 2, status: 'counted', reason: null, marks: [], peakW: 118_000, odd: null },
      ],
      next: { position: 3, status: 'counted' },
      counted: 3,
      countedSoFar: 1,
      settle: 1,
      complete: false,
    },
    recording: null,
    quarantined: 0,
    review: null,
    waiting: 0,
    unclaimed: 0,
    repeatabilityPercent: null,
    halfWidths: [],
    planSees: [],
    settled: 'too-few',
    curves: [],
    override: null,
    crossed: [],
    fitting: null,
    verdicts: [],
    extension: null,
    window: [3000, 6800],
    planComplete: false,
    pullsMissing: 2,
    baseline: null,
    nextSetup: null,
    track: null,
    air: null,
    ...more,
  };
}

/** A verdict on B or C whose gain is so many watts, ±600 W. */
export const verdictOn = (candidate: string, verdict: SheetVerdict['verdict'], value: number): SheetVerdict => ({
  candidate,
  baseline: 'A',
  measure: 'windowMeanPower',
  meaningful: 1,
  verdict,
  reason: 'one-side-of-zero',
  blocking: [],
  smallerThanMatters: false,
  morePullsNeeded: verdict === 'not-resolved' ? { pulls: 6, rounds: [], halfWidth: 0.5 } : null,
  suspected: [],
  gain: {
    ...{ percent: 2, lowPercent: 1, highPercent: 3, low90Percent: 1.2, high90Percent: 2.8 },
    ...{ value, lowValue: value - 600, highValue: value + 600, unit: 'W' },
    ...{ confidence: 0.95, p: 0.01, df: 20, estimate: 2, se: 0.5 },
  },
});

/** The coolant over its limit. */
export const HOT = {
  kind: 'limit-crossed',
  crossed: { limit: { channel: 'coolant_c', warn: null, stop: 115, side: 'above' }, value: 118, level: 'stop' },
} as const;
