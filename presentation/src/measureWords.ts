import {
  channelWords,
  factsNamed,
  isCurved,
  measureNamed,
  type MeasuredQuantity,
  type MeasureId,
  type Verdict,
} from '@prandel/core';
import { DESK } from './palette.ts';
import { VERDICT_STYLES, type VerdictLook } from './verdictStyles.ts';

/** How a measure is spoken of. No word of one measure stands beside another. */
export interface MeasureWords {
  /** In a list or a table: "charge air, hottest". */
  readonly name: string;
  /** In a sentence: "the charge air at its hottest". */
  readonly subject: string;
  /** How a lower and a higher value are called: cooler, hotter. */
  readonly lower: string;
  readonly higher: string;
  /** "are" where the subject is more than one. */
  readonly are: 'is' | 'are';
}

/** What the air and fluids of a car are called, with and without the article. */
const FLUIDS: Readonly<Record<string, string>> = {
  intake_c: 'intake air',
  charge_in_c: 'air into the cooler',
  charge_c: 'charge air',
  ambient_c: 'air ahead of the cooler',
  coolant_c: 'coolant',
  oil_c: 'oil',
  gearbox_c: 'gearbox oil',
  exhaust_c: 'exhaust gas',
  manifold_kpa: 'manifold pressure',
  charge_in_kpa: 'pressure into the cooler',
  charge_kpa: 'pressure out of the cooler',
  fuel_kpa: 'fuel pressure',
  inlet_vacuum_kpa: 'inlet vacuum',
  ignition_deg: 'ignition timing',
  lambda: 'lambda',
};

/** What a channel is called in the middle of a sentence, without an article. */
export function channelName(channel: string): string {
  const { label } = channelWords(channel);
  return FLUIDS[channel] ?? label.charAt(0).toLowerCase() + label.slice(1);
}

const WHEN: Readonly<Partial<Record<MeasureId, { readonly name: string; readonly subject: string }>>> = {
  start: { name: 'at the start of a pull', subject: 'at the start of a pull' },
  end: { name: 'at the end of a pull', subject: 'at the end of a pull' },
  peak: { name: 'at its hottest', subject: 'at its hottest during a pull' },
  mean: { name: 'mean over the window', subject: 'over the window' },
};

const COMPARED: Readonly<Record<MeasuredQuantity, readonly [lower: string, higher: string]>> = {
  power: ['less', 'more'],
  torque: ['less', 'more'],
  temperature: ['cooler', 'hotter'],
  pressure: ['lower', 'higher'],
  lambda: ['richer', 'leaner'],
  timing: ['later', 'earlier'],
  effectiveness: ['less effective', 'more effective'],
  fade: ['faster', 'slower'],
  time: ['quicker', 'slower'],
  roadTime: ['quicker', 'slower'],
  channel: ['lower', 'higher'],
};

const WHEELS: Readonly<Partial<Record<MeasureId, string>>> = {
  windowMeanPower: 'mean wheel power over the window',
  windowMeanTorque: 'mean wheel torque over the window',
  peakPower: 'peak wheel power',
  peakTorque: 'peak wheel torque',
};

/** @param measure its name (core, `measureName`) */
export function measureWords(measure: string): MeasureWords {
  const own = measureNamed(measure);
  const [lower, higher] = COMPARED[factsNamed(measure).quantity];
  const plain = (name: string, subject = `the ${name}`): MeasureWords => ({
    ...{ name, subject, lower, higher, are: 'is' },
  });
  if (!own) return plain(measure);
  const { id, channel = '', rpm, fromKmH, toKmH } = own;
  switch (id) {
    case 'powerAt':
    case 'torqueAt':
      return plain(`wheel ${id === 'powerAt' ? 'power' : 'torque'} at ${rpm} rpm`);
    case 'effectiveness':
      return plain('effectiveness of the cooler', 'the cooler');
    case 'fade':
      return plain('fade of power from pull to pull', 'the fade of power from pull to pull');
    case 'rollOnTime':
      return plain('answer to the pedal, time to the target', 'the answer to the pedal');
    case 'responseDeficit':
      return plain('answer to the pedal, torque not there', 'the answer to the pedal, as torque that is not there,');
    case 'roadTime':
      return plain(
        `time on the road, ${fromKmH} to ${toKmH} km/h`,
        `the run from ${fromKmH} to ${toKmH} km/h on the road`,
      );
    case 'rise':
      return {
        ...plain(`rise of the ${channelName(channel)} over a pull`),
        ...{ lower: 'smaller', higher: 'larger' },
      };
    case 'start':
    case 'end':
    case 'peak':
    case 'mean': {
      const when = WHEN[id]!;
      const what = channelName(channel);
      return plain(`${what}, ${when.name}`, `${what === 'lambda' ? '' : 'the '}${what} ${when.subject}`);
    }
    default:
      return plain(WHEELS[id]!);
  }
}

/** How a verdict on a measure is named and drawn: better is green, a difference that is neither is ink. */
export function verdictLook(verdict: Verdict, measure: string): VerdictLook {
  const look = VERDICT_STYLES[verdict];
  if (verdict !== 'verified-gain' && verdict !== 'verified-loss') return look;
  const facts = factsNamed(measure);
  const { better } = facts;
  if (isCurved(facts)) return look;
  const { lower, higher } = measureWords(measure);
  const up = (verdict === 'verified-gain') === (better !== 'lower');
  const short = up ? higher : lower;
  const words = { word: `Verified ${short}`, short: short.charAt(0).toUpperCase() + short.slice(1) };
  if (better === 'neither')
    return {
      ...words,
      word: 'Verified difference',
      key: 'none',
      colour: DESK.ink,
      tint: VERDICT_STYLES['no-meaningful-change'].tint,
    };
  return { ...look, ...words };
}
