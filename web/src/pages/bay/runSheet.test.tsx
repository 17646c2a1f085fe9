import { describe, expect, test } from '@jest/globals';
import {
  DEFAULT_METHOD,
  gateRows,
  gateVerdict,
  UNKNOWN_BAY,
  UNKNOWN_CARD,
  UNKNOWN_VEHICLE,
  type BayGateInput,
  type LiveSheet,
  type SheetVerdict,
  type SheetState,
} from '@prandel/core';
import { USUAL_UNITS } from '@prandel/presentation';
import type { ReactElement } from 'react';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { renderToStaticMarkup } from 'react-dom/server';
import { BayActions } from './BayActions.tsx';
import { bayStyle, inMinutes, stopwatch } from './bayStyles.ts';
import { DayStrip } from './DayStrip.tsx';
import { ribbonOf } from './ribbon.ts';
import { GateRail } from './GateRail.tsx';
import { Round } from './Round.tsx';
import { StatePanel } from './StatePanel.tsx';

const setups = [
  { id: 'A', label: 'belt-driven pump', returnsTo: null },
  { id: 'B', label: 'electric pump', returnsTo: null },
  { id: 'A2', label: 'return check', returnsTo: 'A' },
];
const live = (value: number, ageS = 1) => ({ value, ageS });
const input: BayGateInput = {
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
function sheetOf(state: SheetState, more: Partial<LiveSheet> = {}, gate: Partial<BayGateInput> = {}): LiveSheet {
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
      matters: 1,
    },
    round: {
      setup: 'B',
      label: 'electric pump',
      number: 1,
      pulls: [
        { id: 'B-1', position: 1, status: 'settle', reason: null, marks: [], peakW: 117_000, odd: false },
        { id: 'B-2', position: 2, status: 'counted', reason: null, marks: [], peakW: 118_000, odd: false },
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
    halfWidth: null,
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
const verdictOn = (candidate: string, verdict: SheetVerdict['verdict'], value: number): SheetVerdict => ({
  candidate,
  baseline: 'A',
  measure: 'windowMeanPower',
  verdict,
  reason: 'one-side-of-zero',
  blocking: [],
  smallerThanMatters: false,
  morePullsNeeded: verdict === 'not-resolved' ? { pulls: 6, rounds: [], halfWidth: 0.5 } : null,
  withoutFlagged: null,
  gain: {
    ...{ percent: 2, lowPercent: 1, highPercent: 3, low90Percent: 1.2, high90Percent: 2.8 },
    ...{ value, lowValue: value - 600, highValue: value + 600, unit: 'W' },
    ...{ confidence: 0.95, p: 0.01, df: 20, estimate: 2, se: 0.5 },
  },
});

/** What is read on the screen: the markup without its tags. */
/** The coolant over its limit. */
const HOT = {
  kind: 'limit-crossed',
  crossed: { limit: { channel: 'coolant_c', warn: null, stop: 115, side: 'above' }, value: 118, level: 'stop' },
} as const;
const words = (element: ReactElement) =>
  renderToStaticMarkup(element)
    .replace(/<[^>]+>/g, ' ')
    .replace(/&#x27;/g, "'")
    .replace(/\s+/g, ' ')
    .trim();
const panel = (sheet: LiveSheet) => words(<StatePanel sheet={sheet} trace={null} />);
const buttons = (sheet: LiveSheet) =>
  [
    ...renderToStaticMarkup(<BayActions sheet={sheet} act={() => undefined} />).matchAll(
      /<button[^>]*>(.*?)<\/button>/gs,
    ),
  ].map(([, inner]) =>
    inner!
      .replace(/<[^>]+>/g, ' ')
      .replace(/\s+/g, ' ')
      .trim(),
  );

describe('one huge state', () => {
  test('READY names the pull, whether it counts, and what starts it', () => {
    expect(panel(sheetOf('ready'))).toBe('READY Pull 3 This one counts.');
    const settle = sheetOf('ready', { round: { ...sheetOf('ready').round!, next: { position: 1, status: 'settle' } } });
    expect(panel(settle)).toContain('Pull 1 Settle pull: recorded, not counted.');
  });

  test('before the first pull that counts, a pattern that still moves asks for one more settle pull', () => {
    const round = { ...sheetOf('ready').round!, countedSoFar: 0 };
    const moving = panel(sheetOf('ready', { round, settled: 'not-settled' }));
    expect(moving).toContain('The settle pulls still move. Make one more first, or this one counts.');
    expect(panel(sheetOf('ready', { round, settled: 'settled' }))).not.toContain('still move');
    expect(panel(sheetOf('ready', { settled: 'not-settled' }))).not.toContain('still move');
  });

  test('HOLD with a forecast counts down and says how sure it is', () => {
    const forecast = {
      kind: 'forecast',
      seconds: 228,
      lowSeconds: 170,
      highSeconds: 300,
      settlesAtC: 28,
      timeConstantS: 400,
    } as const;
    const gate = { readings: { ...input.readings, intakeC: live(36) }, forecasts: { intakeC: forecast } };
    const said = panel(sheetOf('hold', { waitRangeS: [170, 300] }, gate));
    expect(said).toContain('HOLD 3:48');
    expect(said).toContain('Between 3 and 5 min.');
    expect(said).toContain('Intake air, start: 2.0 °C too warm');
  });

  test('a gate that waiting will not open shows no countdown but what to do', () => {
    const gate = {
      readings: { ...input.readings, intakeC: live(41) },
      forecasts: { intakeC: { kind: 'not-on-its-own', settlesAtC: 39 } as const },
    };
    const said = panel(sheetOf('hold', {}, gate));
    expect(said).not.toMatch(/\d:\d\d|wait/i);
    expect(said).toContain('not on its own: look at the fan');
  });

  test('COOLING before there is a forecast says wait, and never a number it does not have', () => {
    const gate = { readings: { ...input.readings, intakeC: live(36) } };
    expect(panel(sheetOf('cooling', {}, gate))).toMatch(
      /^COOLING wait Intake air, start: 2.0 °C too warm, reading the recovery$/,
    );
  });

  test('review shows findings and marks, and no figure of the pull', () => {
    const finding = {
      code: 'slip',
      severity: 'warning',
      fromRpm: 5000,
      toRpm: 5600,
      parameters: { percent: 3.2 },
    } as const;
    const { round } = sheetOf('review');
    const pulls = [
      ...round!.pulls.slice(0, 1),
      {
        id: 'B-2',
        position: 2,
        status: 'counted' as const,
        reason: null,
        marks: ['Gate overridden (No time left): x'],
        peakW: null,
        odd: false,
      },
    ];
    const said = panel(
      sheetOf('review', { round: { ...round!, pulls }, review: { pullId: 'B-2', leftS: 7.2, findings: [finding] } }),
    );
    expect(said).toContain(
      'Gate overridden (No time left): x The engine runs up to 3.2 % ahead of the roller from 5000 to 5600 rpm: tyre or clutch slip. Its curve and figures come once that is judged. Counts in 8 s unless set aside.',
    );
    expect(said).not.toMatch(/kW|\d\d\d\.\d/);
  });

  test('the clock of a fitting runs on the bay’s time', () => {
    const startedAt = new Date(Date.UTC(2026, 10, 23, 14, 12, 30)).toISOString();
    expect(panel(sheetOf('fitting', { fitting: { setup: 'B', startedAt } }))).toContain(
      'FITTING 45:30 Setup B goes on, nothing else.',
    );
  });

  test('STOP, BLOCKED and SENSOR LOST say why; a lost sensor also what still works', () => {
    expect(panel(sheetOf('stop', { reasons: [HOT] }))).toMatch(
      /^STOP Coolant is 118.0 °C, the limit is 115 °C. Close the throttle/,
    );
    const moved = { setPoints: [{ key: 'fan', label: 'Fan', baseline: '3', now: '1', declared: false }] };
    expect(panel(sheetOf('blocked', {}, moved))).toBe('BLOCKED Set fan to 3, or declare it');
    const silent = { readings: { ...input.readings, airC: live(22, 80) } };
    expect(panel(sheetOf('sensor-lost', {}, silent))).toContain(
      'Pulls are recorded but cannot count until it is back.',
    );
  });

  test('before the first pull the model card speaks; the verdict only once every planned pull is in', () => {
    const start = { ...sheetOf('between').round!, pulls: [], countedSoFar: 0 };
    const said = panel(sheetOf('between', { round: start }));
    expect(said).toContain('Gear 4, safe from 1800 to 7100 rpm Traction control off.');
    const verdicts = [verdictOn('B', 'verified-gain', 2500), verdictOn('C', 'no-meaningful-change', 100)];
    expect(panel(sheetOf('between', { verdicts }))).not.toContain('Verified');
    const judged = panel(sheetOf('between', { verdicts, planComplete: true }));
    expect(judged).toContain(
      'The plan is in B: Verified gain +2.5 ±0.6 kW At full throttle between 3000 and 6800 rpm the car makes between 1.9 and 3.1 kW',
    );
    expect(judged).toContain('C: No meaningful change +0.1 ±0.6 kW');
  });

  test('an open question says which rounds would settle it, and whether they were declared', () => {
    const verdicts = [verdictOn('B', 'not-resolved', 600)];
    const extension = {
      rounds: [
        { setup: 'B', settle: 2, counted: 3 },
        { setup: 'A2', settle: 2, counted: 3 },
      ],
      minutes: 148,
    };
    const open = (declared: boolean) =>
      sheetOf('between', { verdicts, planComplete: true, extension: { ...extension, declared } });
    expect(panel(open(true))).toContain(
      'The declared extension, 3 of B, then 3 of A2, about 150 min, would settle it about every second time.',
    );
    expect(buttons(open(true))[0]).toBe('Go on with 3 of B, then 3 of A2 the declared extension');
    expect(buttons(open(false))[0]).toBe('Go on with 3 of B, then 3 of A2 not declared: the report says so');
    expect(buttons(open(false)).slice(1)).toEqual([
      'Another round of B not planned: the report says so',
      'Car off the rollers',
    ]);
  });

  test('a baseline below what its model has shown sends for the first suspect before anything is fitted', () => {
    const round = { ...sheetOf('between').round!, setup: 'A', complete: true };
    const range = { cars: 5, lowW: 111_300, highW: 119_200 };
    const suspect = { key: 'tyres', label: 'Tyre pressure and type', minutes: 5, likelihood: 0.1 };
    const at = (peakW: number, stands: 'low' | 'inside') =>
      panel(
        sheetOf('between', { round, baseline: { peakW, range, stands, suspect: stands === 'low' ? suspect : null } }),
      );
    expect(at(106_000, 'low')).toContain(
      'The baseline peaks at 106 kW, below the 111 to 119 kW of 5 cars of this model. Before fitting, look: Tyre pressure and type, about 5 min.',
    );
    expect(at(115_000, 'inside')).toContain('inside the 111 to 119 kW of 5 cars of this model.');
  });

  test('an odd pull is named while its setup is still on the car', () => {
    const { round } = sheetOf('between');
    const pulls = round!.pulls.map((p) => ({ ...p, odd: p.position === 2 }));
    expect(panel(sheetOf('between', { round: { ...round!, pulls, complete: true } }))).toContain(
      'Pull 2 is the odd one out. Set it aside and pull it again while B is on the car.',
    );
  });

  test('a person who reads hp and °F gets the whole sheet in them', () => {
    const units = { ...USUAL_UNITS, power: 'hp', temperature: '°F' } as const;
    const hot = sheetOf('cooling', {}, { readings: { ...input.readings, intakeC: live(36) } });
    expect(words(<StatePanel sheet={hot} trace={null} units={units} />)).toContain(
      'Intake air, start: 3.6 °F too warm',
    );
    const rail = words(<GateRail rows={hot.rows} units={units} />);
    expect(rail).toContain('Intake air, start 96.8 °F');
    expect(rail).not.toContain('°C');
    const stop = sheetOf('stop', { reasons: [HOT] });
    expect(words(<StatePanel sheet={stop} trace={null} units={units} />)).toContain(
      'Coolant is 244.4 °F, the limit is 239 °F.',
    );
    expect(words(<Round sheet={sheetOf('hold')} units={units} />)).toContain('158.2');
  });
});

describe('four actions at most', () => {
  test.each<[SheetState, string[]]>([
    [
      'hold',
      [
        'Set pull 2 aside',
        'Extra settle pull',
        'Close round early',
        'Start pull 3 opens at READY. Press 3 s to override',
      ],
    ],
    ['ready', ['Set pull 2 aside', 'Extra settle pull', 'Close round early']],
    ['review', ['It counts', 'Set pull 2 aside']],
    ['stop', ['I have looked. Go on']],
    ['pulling', []],
    ['fitting', ['Stop the fitting clock: is on']],
    ['between', ['Go on with the round of B', 'Start fitting A2', 'Another round of B', 'Car off the rollers']],
    [
      'blocked',
      [
        'Fan is set to 3 now',
        'Extra settle pull',
        'Close round early',
        'Start pull 3 opens at READY. Press 3 s to override',
      ],
    ],
  ])('%s', (state, expected) => {
    const fan = { key: 'fan', label: 'Fan', baseline: '3', now: state === 'blocked' ? '1' : '3', declared: false };
    expect(buttons(sheetOf(state, {}, { setPoints: [fan] }))).toEqual(expected);
  });

  test('between rounds the plan says what comes next: the drawn setup, or the same one again after a hold', () => {
    const done = { ...sheetOf('between').round!, complete: true };
    expect(buttons(sheetOf('between', { nextSetup: 'A', round: done }))).toEqual([
      'Start fitting A',
      'Another round of B',
      'Fit A2 instead',
      'Car off the rollers',
    ]);
    const again = sheetOf('between', { nextSetup: 'B', round: { ...sheetOf('between').round!, complete: true } });
    expect(buttons(again)[0]).toBe('Another round of B');
    expect(panel(again)).toContain('The plan asks for another round of B; the gate says when.');
  });

  test('with more setups than one beside the plan, somebody is asked which is fitted instead', () => {
    const more = [...setups, { id: 'C', label: 'both', returnsTo: null }];
    const sheet = sheetOf('between', { nextSetup: 'A2', round: { ...sheetOf('between').round!, complete: true } });
    const asked = buttons({ ...sheet, job: { ...sheet.job!, setups: more } });
    expect(asked).toEqual(['Start fitting A2', 'Another round of B', 'Fit another setup', 'Car off the rollers']);
  });

  test('while the clock runs a photo can be taken with the tablet in the hand', () => {
    const fitting = { setup: 'B', startedAt: '2026-11-23T14:00:00.000Z' };
    const markup = renderToStaticMarkup(
      <QueryClientProvider client={new QueryClient()}>
        <BayActions sheet={sheetOf('fitting', { fitting })} act={() => undefined} />
      </QueryClientProvider>,
    );
    expect(markup).toMatch(/Add a photo<\/span><input type="file" accept="image[^>]*capture="environment"/);
  });

  test('an override that was given can be withdrawn; nothing offers to give a second one', () => {
    expect(buttons(sheetOf('hold', { override: { reason: 'No time left' } })).at(-1)).toBe('Withdraw the override');
  });

  test('at the start there is one thing to do: start the round', () => {
    const round = { ...sheetOf('between').round!, setup: 'A', pulls: [], countedSoFar: 0 };
    expect(buttons(sheetOf('between', { round }))).toEqual([
      'Start the round of A all of that was looked at',
      'Car off the rollers',
    ]);
  });
});

describe('the gate rail', () => {
  const rail = (gate: Partial<BayGateInput>) =>
    renderToStaticMarkup(<GateRail rows={gateRows({ ...input, ...gate })} />);
  const row = (html: string, name: string) => html.split('class="rail-row"').find((part) => part.includes(name))!;

  test('inside rows are quiet, failing ones are marked by shape and words, not by colour alone', () => {
    const html = rail({ readings: { ...input.readings, intakeC: live(40) }, sinceLastPullS: 30 });
    expect(row(html, 'Intake air, start')).toMatch(/data-gate="outside"[\s\S]*bullet-out[\s\S]*Reading it/);
    expect(row(html, 'Since last pull')).toMatch(/0:30[\s\S]*Wait about 2 min/);
    expect(row(html, 'Oil')).toMatch(/data-gate="inside"[\s\S]*bullet-bar[\s\S]*In window/);
    expect(row(html, 'Oil')).not.toContain('bullet-out');
  });

  test('a silent sensor shows a dash, a drift its sign, a set-point both places', () => {
    const html = rail({
      readings: { ...input.readings, oilC: live(96, 90), airC: live(24), intakeC: live(33) },
      setPoints: [{ key: 'fan', label: 'Fan', baseline: '3', now: '1', declared: false }],
    });
    expect(row(html, 'Oil')).toMatch(/>–<[\s\S]*No signal for 90 s/);
    expect(row(html, 'Correction drift')).toMatch(/[+\u2212]\d\.\d %/);
    expect(row(html, '>Fan<')).toMatch(/>3<[\s\S]*data-now="true">1</);
  });
});

test('times are told as on a stopwatch, and rounded where they are a guess', () => {
  expect([0, 59.2, 228, 3725].map(stopwatch)).toEqual(['0:00', '1:00', '3:48', '1:02:05']);
  expect([12, 89, 228].map(inMinutes)).toEqual(['12 s', '89 s', '4 min']);
});

test('a return check wears the hue of what it repeats, hollow', () => {
  expect(bayStyle(setups, 'A2')).toEqual({ line: 'var(--a)', on: 'var(--a-on)', hollow: true });
  expect(bayStyle(setups, 'B')).toEqual({ line: 'var(--b)', on: 'var(--b-on)', hollow: false });
});

describe('the last pull against the baseline’s mean', () => {
  const curve = (label: string, setup: string, firstRpm: number, powerW: (number | null)[]) => ({
    label,
    setup,
    firstRpm,
    powerW,
  });
  const mean = curve('mean', 'A', 3000, [50_000, 51_000, 52_000, null, 53_000]);

  test('is the difference where both have a value, a hole where either has one, on a scale that keeps scatter small', () => {
    const ribbon = ribbonOf([mean, curve('last pull', 'B', 2975, [1, 50_300, 51_200, 51_700, 9, null])])!;
    expect(ribbon).toMatchObject({ setup: 'B', against: 'A', reach: 1 });
    expect(ribbon.points.map(([rpm, kW]) => [rpm, kW === null ? null : Math.round(1000 * kW) / 1000])).toEqual([
      [2975, null],
      [3000, 0.3],
      [3025, 0.2],
      [3050, -0.3],
      [3075, null],
      [3100, null],
    ]);
    expect(ribbonOf([mean, curve('last pull', 'B', 3000, [53_400])])!.reach).toBe(4);
  });

  test('is not there before a mean and a pull are, nor where they share no engine speed', () => {
    expect(ribbonOf([mean])).toBeNull();
    expect(ribbonOf([curve('last pull', 'A', 3000, [1])])).toBeNull();
    expect(ribbonOf([mean, curve('last pull', 'B', 6000, [1, 2])])).toBeNull();
  });
});

describe('the day as a strip', () => {
  const at = (minute: number) => Date.UTC(2026, 10, 23, 9, minute);
  const pulls = (setup: string, from: number, to: number, planned = false) => ({
    ...{ kind: 'pulls' as const, setup, fromMs: at(from), toMs: at(to), planned },
    pulls: planned
      ? []
      : [
          { atMs: at(from), status: 'settle' as const },
          { atMs: at(to), status: 'set-aside' as const },
        ],
  });
  const fitting = { kind: 'fitting' as const, setup: 'B', fromMs: at(12), toMs: at(50), planned: false, pulls: [] };
  const track = {
    nowMs: at(60),
    blocks: [pulls('A', 0, 10), fitting, pulls('B', 51, 60), pulls('B', 60, 70, true), pulls('A2', 110, 130, true)],
  };
  const svg = renderToStaticMarkup(<DayStrip track={track} setups={setups} />);

  test('flags each round once, dashes what is planned, crosses what was set aside, and reads itself aloud', () => {
    expect([...svg.matchAll(/<text[^>]*>([^<]+)</g)].map(([, words]) => words)).toEqual(['A', 'B', 'A2']);
    expect(svg.match(/stroke-dasharray/g)).toHaveLength(2);
    expect(svg.match(/url\(#bay-fit\)/g)).toHaveLength(1);
    expect(svg.match(/<path/g)).toHaveLength(2);
    expect(svg).toContain('The day: 2 pulls on A, fitting B, 2 pulls on B; still planned: pulls on B, pulls on A2');
  });

  test('every mark lies inside the picture', () => {
    for (const [, x, width] of svg.matchAll(/<rect x="([\d.-]+)"[^>]*width="([\d.]+)"/g)) {
      expect(Number(x)).toBeGreaterThanOrEqual(0);
      if (!Number.isNaN(Number(width))) expect(Number(x) + Number(width)).toBeLessThanOrEqual(641);
    }
  });
});
