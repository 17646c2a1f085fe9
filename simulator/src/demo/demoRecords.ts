import { DEFAULT_METHOD, type Method } from '@prandel/core';
import { VIREO_CARD } from '../live/liveDay.ts';

export interface DemoRecord {
  readonly kind: 'customer' | 'vehicle' | 'part' | 'model-card' | 'method';
  readonly label: string;
  readonly paper: Record<string, unknown>;
}

/** Records of the demo shop; all invented. */
export function demoRecords(): DemoRecord[] {
  const house: Method = { ...DEFAULT_METHOD, name: 'House method' };
  const strict: Method = { ...house, name: 'Claims for print', gates: { intakeC: 2, airDriftC: 3, countedPulls: 5 } };
  return [
    {
      kind: 'customer',
      label: 'Bram T.',
      paper: { contact: 'bram@tarnowners.example', notes: 'Wants the curve, not the peak.' },
    },
    { kind: 'customer', label: 'Oda L.', paper: { contact: 'oda@pellow.example', notes: '' } },
    {
      kind: 'vehicle',
      label: 'Tarn Vireo 1.8 roadster',
      paper: {
        owner: 'Bram T.',
        drivenWheels: 'rear',
        aspiration: 'natural',
        transmission: 'manual',
        massKg: 1060,
        engineToRollerRatio: 5.2,
        modelCard: 'Tarn Vireo 1.8',
      },
    },
    {
      kind: 'part',
      label: 'Electric steering pump',
      paper: { price: 340, currency: 'EUR', hours: 1.5, notes: 'Needs its own fuse.' },
    },
    { kind: 'model-card', label: VIREO_CARD.label, paper: { ...VIREO_CARD } },
    { kind: 'method', label: 'House method', paper: { ...house } },
    { kind: 'method', label: 'Claims for print', paper: { ...strict } },
  ];
}
