/** How a recorded channel is spoken of: its name and the unit that its own name ends in. */
export interface ChannelWords {
  readonly label: string;
  readonly unit: string;
  /** Decimals that a reading is worth. */
  readonly digits: number;
}

const LABELS: Readonly<Record<string, string>> = {
  charge_in_c: 'Air into the intercooler',
  charge_c: 'Air after the intercooler',
  ambient_c: 'Air ahead of the cooler',
  inlet_vacuum_kpa: 'Inlet vacuum',
  speed_km_h: 'Road speed',
  ignition_deg: 'Ignition timing',
  intake_c: 'Intake air',
  coolant_c: 'Coolant',
  oil_c: 'Oil',
  oil_bar: 'Oil pressure',
  exhaust_c: 'Exhaust gas',
  manifold_kpa: 'Manifold pressure',
  engine_rpm: 'Engine speed',
  roller_rad_s: 'Roller speed',
  throttle_fraction: 'Throttle',
};

/** Longest endings first: `rad_s` is no `s`. */
const UNITS: readonly (readonly [ending: string, unit: string, digits: number])[] = [
  ['rad_s', 'rad/s', 1],
  ['fraction', '', 2],
  ['km_h', 'km/h', 1],
  ['lambda', '', 2],
  ['rpm', 'rpm', 0],
  ['bar', 'bar', 1],
  ['kpa', 'kPa', 0],
  ['hpa', 'hPa', 1],
  ['deg', '°', 1],
  ['nm', 'N·m', 0],
  ['v', 'V', 2],
  ['w', 'W', 0],
  ['c', '°C', 1],
  ['s', 's', 2],
];

/**
 * Whether a channel is a temperature, by the unit that its name ends in.
 * @example isTemperature('charge_c') // true
 */
export function isTemperature(channel: string): boolean {
  return channelWords(channel).unit === '°C';
}

/**
 * `charge_c` → air after the intercooler, °C; a channel nobody named keeps its own name without the unit.
 * @example channelWords('coolant_c').unit // '°C'
 */
export function channelWords(channel: string): ChannelWords {
  const words = SPOKEN.get(channel) ?? wordsOf(channel);
  if (SPOKEN.size < MOST_SPOKEN) SPOKEN.set(channel, words);
  return words;
}

/** A job asks for the same few names for every pull. */
const SPOKEN = new Map<string, ChannelWords>();
const MOST_SPOKEN = 500;

function wordsOf(channel: string): ChannelWords {
  const known = UNITS.find(([ending]) => channel.endsWith(`_${ending}`));
  const bare = known ? channel.slice(0, -known[0].length - 1) : channel;
  const spoken = bare.replaceAll('_', ' ');
  const label = LABELS[channel] ?? spoken.charAt(0).toUpperCase() + spoken.slice(1);
  return { label, unit: known?.[1] ?? '', digits: known?.[2] ?? 1 };
}
