import { describe, expect, test } from '@jest/globals';
import type { GateVerdict } from '@prandel/core';
import fc from 'fast-check';
import { HoldClock } from './holdClock.ts';

const OPEN: GateVerdict = { state: 'ready', waitS: null, reasons: [] };
const SILENT: GateVerdict = { state: 'sensor-lost', waitS: null, reasons: [{ kind: 'rollers-silent' }] };
const closed = (...keys: string[]): GateVerdict => ({
  ...{ state: 'hold', waitS: null },
  reasons: keys.map((key) => ({ kind: 'condition', key, label: key, finding: { code: 'too-soon' } })),
});

describe('the clock of what keeps a pull waiting', () => {
  test('counts each closed gate for itself, nothing while open, and starts again with every pull', () => {
    const clock = new HoldClock();
    clock.look(0, closed('interval', 'coolantC'));
    clock.look(90_000, closed('coolantC'));
    clock.look(150_000, OPEN);
    expect(clock.take(200_000)).toEqual({ coolantC: 150, interval: 90 });
    expect(clock.take(260_000)).toEqual({});
    clock.look(300_000, SILENT);
    expect(clock.take(312_400)).toEqual({ rollers: 12 });
  });

  test('forgets what held a round that nobody waits for, and a mark beside an open gate holds nothing', () => {
    const clock = new HoldClock();
    clock.look(0, closed('interval'));
    clock.look(60_000, null);
    clock.look(90_000, { ...closed('air'), state: 'ready' });
    expect(clock.take(120_000)).toEqual({});
  });

  test('adds up to the time in which a gate was closed, whenever it was looked at; a clock set back takes nothing away', () => {
    const looks = fc.array(fc.record({ ms: fc.integer({ min: -2000, max: 60_000 }), shut: fc.boolean() }));
    fc.assert(
      fc.property(looks, (list) => {
        const clock = new HoldClock();
        let [at, sum] = [0, 0];
        list.forEach(({ ms, shut }, i) => {
          if (i > 0 && list[i - 1]!.shut) sum += Math.max(0, ms);
          at += i > 0 ? ms : 0;
          clock.look(at, shut ? closed('oilC') : OPEN);
        });
        const held = clock.take(at);
        expect(held.oilC ?? 0).toBe(Math.round(sum / 1000));
      }),
    );
  });
});
