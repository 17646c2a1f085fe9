import { UNKNOWN_CARD, UNKNOWN_VEHICLE, type ModelCard, type Vehicle } from '@prandel/core';
import type { Engine } from '../day/spec.ts';
import { AMBRY, DORSIN, PELLOW, VIREO } from '../demo/demoCars.ts';

/** A model of the invented shop's two years: how it is built, and how strong its engine is against the one it is drawn after. */
export interface YearModel {
  readonly label: string;
  readonly vehicle: Omit<Vehicle, 'label'>;
  readonly engine: Engine;
  readonly boosted: boolean;
  readonly windowRpm: readonly [number, number];
  readonly card: ModelCard;
}

type Build = 'front' | 'rear' | 'all';

/** An engine of its own after another one: so much more torque, its speeds so much higher. */
const after = (engine: Engine, torque: number, speed: number): Engine => ({
  ...engine,
  points: engine.points.map(([rpm, nm]) => [Math.round(rpm * speed), nm * torque] as const),
  limitRpm: Math.round(engine.limitRpm * speed),
});

function model(
  label: string,
  [base, torque, speed]: readonly [Engine, number, number],
  drivenWheels: Build,
  [massKg, ratio]: readonly [number, number],
): YearModel {
  const engine = after(base, torque, speed);
  const boosted = base === AMBRY;
  const safeRpm = [engine.startRpm + 50, engine.limitRpm - 50] as const;
  return {
    label,
    vehicle: {
      ...UNKNOWN_VEHICLE,
      ...{ drivenWheels, massKg, engineToRollerRatio: ratio, transmission: 'manual' },
      aspiration: boosted ? 'turbo' : 'natural',
    },
    ...{ engine, boosted },
    windowRpm: [Math.ceil((engine.startRpm + 1100) / 250) * 250, Math.floor((engine.limitRpm - 400) / 250) * 250],
    card: {
      ...UNKNOWN_CARD,
      ...{ label, gear: '4', safeRpm, settlePulls: 2 },
      sensors: { intake: true, coolant: true, oil: true },
      baselinesSeenW: [],
    },
  };
}

/** Fourteen models; all invented. */
export const YEAR_MODELS: readonly YearModel[] = [
  model('Tarn Vireo 1.8', [VIREO, 1, 1], 'rear', [1060, 5.2]),
  model('Tarn Siskin 1.4', [VIREO, 0.76, 1.02], 'front', [910, 5.6]),
  model('Tarn Dunlin 2.0', [VIREO, 1.14, 0.97], 'front', [1190, 5]),
  model('Pellow Strand 2.5', [PELLOW, 1, 1], 'rear', [1540, 4.6]),
  model('Pellow Carrow 1.6', [PELLOW, 0.64, 1.04], 'front', [1080, 5.3]),
  model('Pellow Trevan 3.0', [PELLOW, 1.22, 1], 'rear', [1610, 4.4]),
  model('Ambry Mistral turbo', [AMBRY, 1, 1], 'front', [1290, 4.9]),
  model('Ambry Sirra turbo', [AMBRY, 1.25, 1.03], 'all', [1480, 4.6]),
  model('Ambry Foehn 1.0 turbo', [AMBRY, 0.82, 0.98], 'front', [1050, 5.1]),
  model('Dorsin Keld 2.2', [DORSIN, 0.78, 1.02], 'rear', [1330, 4.8]),
  model('Dorsin Marl 2.8', [DORSIN, 1, 1], 'rear', [1490, 4.5]),
  model('Dorsin Thole 3.4', [DORSIN, 1.2, 0.97], 'all', [1690, 4.3]),
  model('Hesk Rill 1.2', [VIREO, 0.62, 1.05], 'front', [870, 5.8]),
  model('Hesk Gannel 2.0', [PELLOW, 0.82, 1.06], 'front', [1240, 4.9]),
];
