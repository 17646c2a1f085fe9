import type { LaidBy, NotLaid } from '@prandel/core';

const UNITS: Readonly<Record<LaidBy, readonly [name: string, unit: string, digits: number]>> = {
  engine: ['engine speed', 'rpm', 0],
  roller: ['roller speed', 'rad/s', 1],
  road: ['road speed', 'km/h', 1],
  throttle: ['throttle', '', 2],
  hand: ['hand', '', 0],
};

/** What a record was laid by, in words: "engine speed". */
export function laidByWords(by: LaidBy): string {
  return UNITS[by][0];
}

/** A residual with its unit: "14 rpm". */
export function residualWords(by: LaidBy, residual: number): string {
  const [, unit, digits] = UNITS[by];
  return `${residual.toFixed(digits)} ${unit}`.trim();
}

/** Why a record cannot be laid beside the pulls, and what to do. */
export function notLaidWords(why: NotLaid): string {
  switch (why.code) {
    case 'no-time':
      return 'The record has no column of time. Say which one it is.';
    case 'too-long':
      return `By its time the record lasts ${why.hours.toFixed(0)} hours; a day has fewer. Is its time in another unit?`;
    case 'no-common-speed':
      return 'Pulls and record have no speed in common: neither engine, rollers nor road, nor the throttle. Place it by hand, or export the record with engine speed.';
    case 'no-match':
      return `Nothing in this record looks like one of the pulls${why.correlation === null ? '' : ` (correlation ${why.correlation.toFixed(3)}, at least 0.980 is asked for)`}. Is it of another day, or of another car?`;
    case 'ambiguous':
      return `The record fits in ${why.places} places equally well, so it was not laid. Drop a longer stretch of it, or place it by hand.`;
    case 'residual':
      return `The record lies, but its speed is off by ${residualWords(why.laidBy, why.residual)}, over 2 % of the range: its ${laidByWords(why.laidBy)} is scaled otherwise or filtered. Check its unit, or place it by hand.`;
    default:
      return why satisfies never;
  }
}
