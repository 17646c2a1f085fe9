import { channelWords, fromSi, type InstrumentFault, type InstrumentStatus } from '@prandel/core';
import { plain, USUAL_UNITS, type ShownUnits } from './figures.ts';

/** What is wrong with an instrument, as a sentence. */
export function instrumentFaultWords(fault: InstrumentFault, units: ShownUnits = USUAL_UNITS): string {
  switch (fault.code) {
    case 'not-connected-yet':
      return 'Not connected yet.';
    case 'says-nothing':
      return 'Connected, but says nothing.';
    case 'line-lost':
      return 'The connection was lost. Look at the cable; it is tried again by itself.';
    case 'unreadable':
      return 'Something arrived that could not be read.';
    case 'not-allowed':
      return `${fault.host} is in no network in which instruments are allowed.`;
    case 'no-connection':
      return `No connection to ${fault.host}:${fault.port}.`;
    case 'too-fast':
      return `Sends more than ${fault.megabytesPerS} MB a second and is held back.`;
    case 'line-unreadable':
      return `A line could not be read: ${fault.detail}.`;
    case 'sentence-unreadable':
      return `A sentence could not be read: ${fault.detail}.`;
    case 'weather-not-believed':
      return `Not believed: ${fault.detail}.`;
    case 'no-registers':
      return `Registers could not be read: ${fault.detail}.`;
    case 'no-modbus':
      return `This is no Modbus TCP: ${fault.detail}.`;
    case 'not-believed':
      return `${readingWords({ [fault.channel]: fault.value }, units)} is not believed.`;
    case 'reduced-to-sea-level':
      return `${plain(fault.pressureHpa, 1)} hPa looks reduced to sea level; station pressure is wanted.`;
    default:
      return fault satisfies never;
  }
}

/** The last good reading of an instrument, in the units that a person reads; null before the first. */
export function lastGoodWords(
  { kind, lastGood }: Pick<InstrumentStatus, 'kind' | 'lastGood'>,
  units: ShownUnits = USUAL_UNITS,
): string | null {
  if (lastGood === null) return null;
  const { temperature } = units;
  const value = (key: string, digits: number, to = (v: number) => v) =>
    lastGood[key] === undefined ? '–' : plain(to(lastGood[key]), digits);
  switch (kind) {
    case 'rollers':
      return `${value('engine_rpm', 0)} rpm, roller ${value('roller_rad_s', 1)} rad/s`;
    case 'weather':
      return `${value('airC', 1, (c) => fromSi(c, temperature))} ${temperature}, ${value('pressureHpa', 1)} hPa, ${value('relativeHumidity', 0, (share) => 100 * share)} %`;
    default:
      return readingWords(lastGood, units);
  }
}

/** Readings side by side: "Coolant 91 °C, oil pressure 2.1 bar". */
export function readingWords(values: Readonly<Record<string, number>>, units: ShownUnits = USUAL_UNITS): string {
  return Object.entries(values)
    .map(([channel, read], i) => {
      const { label, unit, digits } = channelWords(channel);
      const value = unit === '°C' ? fromSi(read, units.temperature) : read;
      const name = i === 0 ? label : label.charAt(0).toLowerCase() + label.slice(1);
      const own = unit === '°C' ? units.temperature : unit;
      return `${name} ${plain(value, Number.isInteger(read) ? 0 : digits)} ${own}`.trimEnd();
    })
    .join(', ');
}
