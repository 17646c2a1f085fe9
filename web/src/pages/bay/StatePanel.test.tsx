/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import type { LiveSheet } from '@prandel/core';
import { USUAL_UNITS } from '@prandel/presentation';
import { textOf } from '../../test/textOf.ts';
import { GateRail } from './GateRail.tsx';
import { Round } from './Round.tsx';
import { HOT, input, live, sheetOf, verdictOn } from '../../test/sheets.ts';
import { StatePanel } from './StatePanel.tsx';

const panel = (sheet: LiveSheet) => textOf(<StatePanel sheet={sheet} trace={null} />);

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
        odd: null,
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
    const odd = (likelyPercent: number | null) => {
      const pulls = round!.pulls.map((p) => ({ ...p, odd: p.position === 2 ? { likelyPercent } : null }));
      return panel(sheetOf('between', { round: { ...round!, pulls, complete: true } }));
    };
    expect(odd(87)).toContain(
      'Pull 2 is not like the others (87 %). Make one pull more while B is on the car; nothing is thrown away.',
    );
    expect(odd(null)).toContain('Pull 2 has a dip that the others lack. Make one pull more');
  });

  test('a person who reads hp and °F gets the whole sheet in them', () => {
    const units = { ...USUAL_UNITS, power: 'hp', temperature: '°F' } as const;
    const hot = sheetOf('cooling', {}, { readings: { ...input.readings, intakeC: live(36) } });
    expect(textOf(<StatePanel sheet={hot} trace={null} units={units} />)).toContain(
      'Intake air, start: 3.6 °F too warm',
    );
    const rail = textOf(<GateRail rows={hot.rows} units={units} />);
    expect(rail).toContain('Intake air, start 96.8 °F');
    expect(rail).not.toContain('°C');
    const stop = sheetOf('stop', { reasons: [HOT] });
    expect(textOf(<StatePanel sheet={stop} trace={null} units={units} />)).toContain(
      'Coolant is 244.4 °F, the limit is 239 °F.',
    );
    expect(textOf(<Round sheet={sheetOf('hold')} units={units} />)).toContain('158.2');
  });
});
