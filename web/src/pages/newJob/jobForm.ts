import { changeOf, newSetup, type Change, type DeclarableState } from '@prandel/core';
import type { Schemas } from '../../api/client.ts';
import { measuresOf, newMeasureRow, type MeasureRow } from '../../parts/MeasuresField.tsx';

/** What is typed when a job is opened; numbers stay text until the job is made of it. */
export interface JobForm {
  title: string;
  measures: MeasureRow[];
  low: string;
  high: string;
  cooling: boolean;
  a: string;
  candidates: { label: string; changes: Change[]; declares: DeclarableState[]; closedCourseOnly: boolean }[];
  returnCheck: boolean;
  vehicle: string;
  driven: string;
  aspiration: string;
  transmission: string;
  ratio: string;
  mass: string;
  bay: string;
  inertia: string;
  customer: string;
  claim: string;
  card: string;
  method: string;
  fuel: string;
  tune: string;
  controller: string;
  tyres: string;
  tyrePressure: string;
  oil: string;
  parts: string;
  losses: string[];
  keep: boolean;
}
export type TextField = Exclude<
  keyof JobForm,
  'candidates' | 'measures' | 'losses' | 'cooling' | 'returnCheck' | 'keep'
>;

export const NO_CANDIDATE: JobForm['candidates'][number] = {
  label: '',
  changes: [],
  declares: [],
  closedCourseOnly: false,
};

export const EMPTY_FORM: JobForm = {
  title: '',
  measures: [newMeasureRow('windowMeanPower')],
  low: '3000',
  high: '6500',
  cooling: false,
  a: 'as arrived',
  candidates: [NO_CANDIDATE],
  returnCheck: false,
  vehicle: '',
  driven: '',
  aspiration: 'natural',
  transmission: 'manual',
  ratio: '',
  mass: '',
  bay: 'Bay 1',
  inertia: '',
  customer: '',
  claim: '',
  card: '',
  method: '',
  fuel: '',
  tune: '',
  controller: '',
  tyres: '',
  tyrePressure: '',
  oil: '',
  parts: '',
  losses: [],
  keep: true,
};

/** A job that is made of a day's files: what nobody has to type, since files know it or it can be said later. */
export const DROPPED_FORM: JobForm = {
  ...EMPTY_FORM,
  candidates: [{ ...NO_CANDIDATE, label: 'with the change' }],
  vehicle: 'car of the day',
  keep: false,
};

/** Small losses that a walk-round finds. Common practice, no source. */
export const SMALL_LOSSES = [
  'dry driveline joints or bearings',
  'a dragging brake',
  'tyres of an odd type',
  'a dirty or over-oiled filter',
  'an insert left in the exhaust',
  'fluid of unknown grade',
] as const;

/** A is the baseline; what is compared with it goes by the letters after it. */
export const LETTERS = ['B', 'C', 'D', 'E', 'F', 'G', 'H', 'I', 'J', 'K', 'L'] as const;
export const LETTERED = [newSetup('A', 'A'), ...LETTERS.map((id) => newSetup(id, id, 'A'))];

type Row = Schemas['RecordRow'];

/** Where each field of the form stands on a vehicle's record. */
const ON_RECORD: readonly (readonly [TextField, string])[] = [
  ['driven', 'drivenWheels'],
  ['aspiration', 'aspiration'],
  ['transmission', 'transmission'],
  ['ratio', 'engineToRollerRatio'],
  ['mass', 'massKg'],
  ['customer', 'owner'],
  ['card', 'modelCard'],
  ['fuel', 'fuel'],
  ['tune', 'tune'],
  ['tyres', 'tyres'],
  ['oil', 'oil'],
  ['parts', 'partsFitted'],
];

/** The records that were chosen in the form; null where what is typed is no record. */
export interface ChosenRecords {
  readonly vehicle: Row | null;
  readonly customer: Row | null;
  readonly card: Row | null;
  readonly method: Row | null;
}
export const NOTHING_CHOSEN: ChosenRecords = { vehicle: null, customer: null, card: null, method: null };

/** What a known vehicle brings with it. */
export function broughtBy({ fields }: Row): [TextField, string][] {
  return ON_RECORD.flatMap(([name, key]): [TextField, string][] => {
    const value = fields[key];
    return typeof value === 'string' || typeof value === 'number' ? [[name, String(value)]] : [];
  });
}

/** What a part on record brings to a setup that fits it; what somebody wrote stays. */
export function fittedPart(row: Row, before: JobForm['candidates'][number]): JobForm['candidates'][number] {
  return {
    ...before,
    label: row.label,
    changes: before.changes.length > 0 ? before.changes : [changeOf('part-fitted', row.label)],
    closedCourseOnly: row.fields.closedCourseOnly === true,
  };
}

/** The records that this form would add: a vehicle and a customer that the shop has not written down yet. */
export function newRecords(v: JobForm, { vehicle, customer }: ChosenRecords): Schemas['NewRecord'][] {
  if (!v.keep) return [];
  const fields: Record<string, unknown> = {};
  for (const [name, key] of ON_RECORD)
    if (v[name].trim()) fields[key] = name === 'ratio' || name === 'mass' ? number(v[name]) : v[name].trim();
  return [
    ...(v.vehicle.trim() && !vehicle ? [{ kind: 'vehicle' as const, label: v.vehicle.trim(), fields }] : []),
    ...(v.customer.trim() && !customer
      ? [{ kind: 'customer' as const, label: v.customer.trim(), fields: { contact: '', notes: '' } }]
      : []),
  ];
}

function number(text: string): number | null {
  const value = Number(text.replace(',', '.'));
  return text.trim() === '' || !Number.isFinite(value) ? null : value;
}

/** The job that the form asks for. What was recorded of the car at intake is the state of every setup until somebody changes it. */
export function requestOf(v: JobForm, chosen: ChosenRecords) {
  const state = Object.fromEntries(
    Object.entries({
      fuel: v.fuel,
      tuneDigest: v.tune,
      controllerState: v.controller,
      tyrePressureKpa: v.tyrePressure,
    }).flatMap(([key, words]) => (words.trim() ? [[key, words.trim()]] : [])),
  );
  const compared = v.candidates.map((own, i) => ({ id: LETTERS[i]!, ...own }));
  const card = chosen.card?.fields;
  const method = chosen.method?.fields;
  const intake = Object.entries({
    Tune: v.tune,
    Controller: v.controller,
    Tyres: v.tyres,
    Oil: v.oil,
    'Parts already fitted': v.parts,
    'Small losses found': v.losses.join(', '),
  }).filter(([, words]) => words.trim() !== '');
  const car = chosen.vehicle;
  const known = car?.fields;
  return {
    title: v.title,
    vehicle: {
      label: car?.label ?? v.vehicle,
      drivenWheels: v.driven || null,
      aspiration: v.aspiration || null,
      transmission: v.transmission || null,
      massKg: number(v.mass),
      engineToRollerRatio: number(v.ratio),
      ...(known?.heatSensitive === true ? { heatSensitive: true } : {}),
    },
    bay: { label: v.bay, kind: number(v.inertia) ? 'inertia' : null, rollerInertiaKgM2: number(v.inertia) },
    question: {
      text: v.title,
      baselineSetup: 'A',
      candidateSetups: compared.map(({ id }) => id),
      measures: measuresOf(v.measures),
      windowRpm: [number(v.low) ?? 3000, number(v.high) ?? 6500],
      partChangesIntakeTemperature: v.cooling,
    },
    setups: [
      { id: 'A', label: v.a, changes: [], state },
      ...compared.map((setup) => ({ ...setup, parentId: 'A', state })),
      ...(v.returnCheck
        ? [{ id: 'A2', label: 'return check', parentId: 'A', returnsTo: 'A', changes: [], state }]
        : []),
    ],
    ...(method ? { method: method as unknown as Schemas['MethodDto'] } : {}),
    day: {
      customer: v.customer.trim() || null,
      claim: v.claim.trim() || null,
      intake: Object.fromEntries(intake),
      ...(card ? { modelCard: card } : {}),
    },
    timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    ...(car ? { vehicleId: car.id } : {}),
  } satisfies Schemas['NewJob'];
}
