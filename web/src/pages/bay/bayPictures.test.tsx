/** @jest-environment jsdom */
import { describe, expect, test } from '@jest/globals';
import { gateRows, type BayGateInput } from '@prandel/core';
import { cleanup, render, screen } from '@testing-library/react';
import { read } from '../../test/textOf.ts';
import { bayStyle, inMinutes, stopwatch } from './bayStyles.ts';
import { DayStrip } from './DayStrip.tsx';
import { GateRail } from './GateRail.tsx';
import { ribbonOf } from './ribbon.ts';
import { input, live, setups } from '../../test/sheets.ts';

describe('the gate rail', () => {
  const rail = (gate: Partial<BayGateInput>) => {
    cleanup();
    render(<GateRail rows={gateRows({ ...input, ...gate })} />);
  };
  const row = (name: string) => screen.getByText(name).closest<HTMLElement>('[data-gate]')!;

  test('inside rows are quiet, failing ones are marked by shape and words, not by colour alone', () => {
    rail({ readings: { ...input.readings, intakeC: live(40) }, sinceLastPullS: 30 });
    const warm = row('Intake air, start');
    expect(warm.dataset.gate).toBe('outside');
    expect(warm.querySelector('.bullet-out')).not.toBeNull();
    expect(read(warm)).toContain('Reading it');
    expect(read(row('Since last pull'))).toMatch(/0:30.*Wait about 2 min/);
    const oil = row('Oil');
    expect(oil.dataset.gate).toBe('inside');
    expect([oil.querySelector('.bullet-bar'), oil.querySelector('.bullet-out')].map(Boolean)).toEqual([true, false]);
    expect(read(oil)).toContain('In window');
  });

  test('a silent sensor shows a dash, a drift its sign, a set-point both places', () => {
    rail({
      readings: { ...input.readings, oilC: live(96, 90), airC: live(24), intakeC: live(33) },
      setPoints: [{ key: 'fan', label: 'Fan', baseline: '3', now: '1', declared: false }],
    });
    expect(read(row('Oil'))).toBe('Oil – No signal for 90 s');
    expect(read(row('Correction drift'))).toMatch(/[+\u2212]\d\.\d %/);
    const places = [...row('Fan').querySelectorAll<HTMLElement>('[data-now]')];
    expect(places.map((place) => [read(place), place.dataset.now])).toEqual([
      ['3', 'false'],
      ['1', 'true'],
    ]);
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
  const drawn = () => {
    cleanup();
    return render(<DayStrip track={track} setups={setups} />).container;
  };

  test('flags each round once, dashes what is planned, crosses what was set aside, and reads itself aloud', () => {
    const strip = drawn();
    expect([...strip.querySelectorAll('text')].map(read)).toEqual(['A', 'B', 'A2']);
    expect(strip.querySelectorAll('[stroke-dasharray]')).toHaveLength(2);
    expect(strip.querySelectorAll('[fill="url(#bay-fit)"]')).toHaveLength(1);
    expect(strip.querySelectorAll('svg > path, g > path')).toHaveLength(2);
    const aloud = 'The day: 2 pulls on A, fitting B, 2 pulls on B; still planned: pulls on B, pulls on A2';
    expect(screen.getByRole('img', { name: aloud })).toBeTruthy();
  });

  test('every mark lies inside the picture', () => {
    const marks = [...drawn().querySelectorAll('rect[x]')];
    expect(marks.length).toBeGreaterThan(4);
    for (const mark of marks) {
      const [x, width] = [Number(mark.getAttribute('x')), Number(mark.getAttribute('width'))];
      expect(x).toBeGreaterThanOrEqual(0);
      if (!Number.isNaN(width)) expect(x + width).toBeLessThanOrEqual(641);
    }
  });
});
