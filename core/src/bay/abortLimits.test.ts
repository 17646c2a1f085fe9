import { describe, expect, test } from '@jest/globals';
import { DEFAULT_METHOD, newJob } from '../job/defaults.ts';
import type { Job } from '../job/job.ts';
import { armedLimits, limitsCrossed } from './abortLimits.ts';
import { channelWords } from './channelWords.ts';
import { UNKNOWN_CARD, USUAL_DAY, type JobDay } from './jobDay.ts';

describe('abort limits', () => {
  const limits = [
    { channel: 'charge_c', warn: 75, stop: 85, side: 'above' },
    { channel: 'oil_bar', warn: null, stop: 1.5, side: 'below' },
  ] as const;
  test('stops come before warnings; a silent channel crosses nothing', () => {
    expect(limitsCrossed(limits, { charge_c: 78, oil_bar: 1.2 }).map((c) => [c.limit.channel, c.level])).toEqual([
      ['oil_bar', 'stop'],
      ['charge_c', 'warn'],
    ]);
    expect(limitsCrossed(limits, { charge_c: 60, oil_bar: undefined })).toEqual([]);
    expect(limitsCrossed(limits, { charge_c: NaN })).toEqual([]);
  });
});

describe('limits that arm themselves', () => {
  const boosted = (day: Partial<JobDay> = {}, gates: Record<string, number> = {}): Job => ({
    ...newJob('1', 'cooler'),
    vehicle: { ...newJob('', '').vehicle, aspiration: 'turbo' },
    method: { ...DEFAULT_METHOD, gates },
    day: { ...USUAL_DAY, ...day },
  });
  const card = (chargeAir: NonNullable<JobDay['modelCard']['chargeAir']>) => ({
    modelCard: { ...UNKNOWN_CARD, chargeAir },
  });

  test('a boosted car stops at the house method’s charge air: 85 °C unless the house says otherwise', () => {
    expect(armedLimits(boosted())).toEqual([
      { channel: 'charge_c', side: 'above', warn: 75, stop: 85, from: 'house method' },
    ]);
    expect(armedLimits(boosted({}, { chargeAirStopC: 95 }))).toMatchObject([{ warn: 75, stop: 95 }]);
    expect(armedLimits({ ...boosted(), vehicle: { ...newJob('', '').vehicle, aspiration: 'natural' } })).toEqual([]);
  });

  test('the model card knows better, and ahead of the cooler the house’s limit would stop every pull', () => {
    const own = card({ sensor: 'before-cooler', warnC: 170, stopC: 190 });
    expect(armedLimits(boosted(own))).toMatchObject([{ warn: 170, stop: 190, from: 'model card' }]);
    expect(armedLimits(boosted(card({ sensor: 'before-cooler', warnC: null, stopC: null })))).toEqual([]);
    expect(armedLimits(boosted(card({ sensor: 'after-cooler', warnC: null, stopC: null })))).toMatchObject([
      { stop: 85, from: 'house method' },
    ]);
  });

  test('a limit that a person armed on the job takes its place and leaves the others alone', () => {
    const abortLimits = [
      { channel: 'charge_c', warn: null, stop: 70, side: 'above' as const },
      { channel: 'oil_bar', warn: null, stop: 1.2, side: 'below' as const },
    ];
    expect(armedLimits(boosted({ abortLimits })).map((l) => [l.stop, l.from])).toEqual([
      [70, 'job'],
      [1.2, 'job'],
    ]);
  });
});

describe('channels in words', () => {
  test('the unit is the ending of the name, the longest that fits', () => {
    expect(channelWords('wheel_speed_km_h')).toEqual({ label: 'Wheel speed', unit: 'km/h', digits: 1 });
    expect(channelWords('gearbox_c')).toEqual({ label: 'Gearbox', unit: '°C', digits: 1 });
  });
});
