import { DEFAULT_METHOD, type Method } from '@prandel/core';
import { VIREO_CARD } from '../live/liveDay.ts';

export interface DemoRecord {
  readonly kind: 'customer' | 'vehicle' | 'part' | 'model-card' | 'method';
  readonly label: string;
  readonly fields: Record<string, unknown>;
}

/** Records of the demo shop; all invented. */
export function demoRecords(): DemoRecord[] {
  const house: Method = { ...DEFAULT_METHOD, name: 'House method' };
  const strict: Method = { ...house, name: 'Claims for print', gates: { intakeC: 2, airDriftC: 3, countedPulls: 5 } };
  return [
    { kind: 'model-card', label: VIREO_CARD.label, fields: { ...VIREO_CARD } },
    {
      kind: 'customer',
      label: 'Bram T.',
      fields: { contact: 'bram@tarnowners.example', notes: 'Wants the curve, not the peak.' },
    },
    { kind: 'customer', label: 'Oda L.', fields: { contact: 'oda@pellow.example', notes: '' } },
    {
      kind: 'vehicle',
      label: 'Tarn Vireo 1.8 roadster',
      fields: {
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
      fields: { price: 340, currency: 'EUR', hours: 1.5, notes: 'Needs its own fuse.' },
    },
    { kind: 'method', label: 'House method', fields: { ...house } },
    { kind: 'method', label: 'Claims for print', fields: { ...strict } },
  ];
}
