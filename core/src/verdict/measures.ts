import type { Measure } from '../job/job.ts';

/** What a measure is about; sentences, units, bands and schools of one quantity never stand beside another. */
export type MeasuredQuantity = 'power' | 'torque' | 'temperature';

/** What differs between measures, written down once. */
export interface MeasureFacts {
  readonly quantity: MeasuredQuantity;
  /** `log`: judged in per cent; `additive`: judged in the unit itself. */
  readonly scale: 'log' | 'additive';
  /** Which direction is a gain. */
  readonly better: 'higher' | 'lower';
  /** k: how much more the measure scatters, mounts and drifts than mean power does (°C for per cent); judgement. */
  readonly factor: number;
  /** SI unit of its values. */
  readonly unit: 'W' | 'N·m' | '°C';
}

const POWER: MeasureFacts = { quantity: 'power', scale: 'log', better: 'higher', factor: 1, unit: 'W' };
const TORQUE: MeasureFacts = { quantity: 'torque', scale: 'log', better: 'higher', factor: 1, unit: 'N·m' };
const TEMPERATURE: MeasureFacts = {
  quantity: 'temperature',
  scale: 'additive',
  better: 'lower',
  factor: 2,
  unit: '°C',
};

/** Facts of every measure that a question may be asked of. */
export const MEASURE_FACTS: Readonly<Record<Measure, MeasureFacts>> = {
  windowMeanPower: POWER,
  windowMeanTorque: TORQUE,
  peakPower: POWER,
  intakeStartTemperature: TEMPERATURE,
  coolantStartTemperature: TEMPERATURE,
  oilStartTemperature: TEMPERATURE,
};
