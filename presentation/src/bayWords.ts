import {
  channelWords,
  fromSi,
  type GateFinding,
  type LimitCrossed,
  type PlainGateCode,
  type SheetPull,
  type SheetReason,
} from '@prandel/core';
import { plain, temperatureStep, USUAL_UNITS, type ShownUnits } from './figures.ts';

const PLAIN: Readonly<Record<PlainGateCode, string>> = {
  'in-window': 'In window',
  'sets-baseline': 'Sets the baseline',
  'by-hand': 'By hand, at the desk',
  'first-of-round': 'First of the round',
  'no-weather': 'No weather',
  'not-recorded': 'Not recorded',
  'as-baseline': 'As baseline',
  'declared-change': 'Declared change',
  drifting: 'Drifting',
  'drifted-too-far': 'The day has drifted too far',
  'cold-before-settling': 'Cold: this settle pull warms it',
  'too-soon': 'Too soon after the last pull',
  'long-pause': 'Longer than the method’s interval',
  'cool-down': 'Cool-down before a new setup',
  'pair-hold': 'Hold between the two rounds of a pair',
  'pair-hold-over': 'Longer than the hold plan’s hour',
};

const RECOVERIES = {
  forecast: '',
  reading: ', reading the recovery',
  'not-on-its-own': ', not on its own: look at the fan',
} as const;

/** What was found of a gate's condition. @param label what the condition is called */
export function gateFindingWords(finding: GateFinding, label: string, units: ShownUnits = USUAL_UNITS): string {
  const degrees = (byC: number) => `${plain(temperatureStep(byC, units.temperature), 1)} ${units.temperature}`;
  switch (finding.code) {
    case 'not-held':
      return finding.pause === 'none' ? 'Not held: no pause' : 'Not held: fixed pause';
    case 'no-signal':
      return finding.ageS === null ? 'No signal yet' : `No signal for ${Math.round(finding.ageS)} s`;
    case 'too-warm':
      return `${degrees(finding.byC)} too warm${RECOVERIES[finding.recovery]}`;
    case 'too-cold':
      return `${degrees(finding.byC)} too cold: warm it up first`;
    case 'set-point-differs':
      return `Set ${label.toLowerCase()} to ${finding.to}, or declare it`;
    default:
      return PLAIN[finding.code];
  }
}

/** Codes whose sentence names its condition itself. */
const NAMES_ITSELF: readonly GateFinding['code'][] = [
  ...(['set-point-differs', 'first-of-round', 'too-soon', 'long-pause'] as const),
  ...(['cool-down', 'pair-hold', 'pair-hold-over'] as const),
];

/** Why the bay is in its state, as a line of the run sheet. */
export function reasonWords(reason: SheetReason, units: ShownUnits = USUAL_UNITS): string {
  switch (reason.kind) {
    case 'rollers-silent':
      return 'Rollers: no signal. Look at the cable.';
    case 'limit-crossed':
      return crossedWords(reason.crossed, units);
    case 'condition': {
      const words = gateFindingWords(reason.finding, reason.label, units);
      return NAMES_ITSELF.includes(reason.finding.code) ? words : `${reason.label}: ${words}`;
    }
  }
}

/** "Coolant is 115.3 °C, the limit is 115 °C." */
export function crossedWords({ limit, value, level }: LimitCrossed, units: ShownUnits = USUAL_UNITS): string {
  const { label, unit, digits } = channelWords(limit.channel);
  const shownIn = unit === '°C' ? units.temperature : unit;
  const to = (v: number) => (unit === '°C' ? fromSi(v, units.temperature) : v);
  const edge = level === 'stop' ? limit.stop : (limit.warn ?? limit.stop);
  const behind = shownIn === '°' || shownIn === '' ? shownIn : ` ${shownIn}`;
  return `${label} is ${plain(to(value), digits)}${behind}, the limit is ${edgeText(to(edge))}${behind}.`;
}

/** An edge as somebody typed it, without zeros behind it. */
function edgeText(edge: number): string {
  const tenths = Math.round(edge * 10);
  return plain(tenths / 10, tenths % 10 === 0 ? 0 : 1);
}

/** A pull of the round that may be unlike the others, as a sentence. */
export function oddPullWords({ position, odd }: Pick<SheetPull, 'position' | 'odd'>): string {
  return odd?.likelyPercent === null
    ? `Pull ${position} has a dip that the others lack.`
    : `Pull ${position} is not like the others (${plain(odd?.likelyPercent, 0)} %).`;
}
