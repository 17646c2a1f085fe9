import type { Schemas } from '../../api/client.ts';

export type RecordKind = Schemas['RecordRow']['kind'];

/** A field of a record; `path` may reach one level down (`sensors.oil`). */
export interface RecordField {
  readonly path: string;
  readonly label: string;
  readonly kind: 'text' | 'long' | 'number' | 'flag' | 'choice' | 'powers';
  readonly choices?: readonly (readonly [string, string])[];
  readonly hint?: string;
}

export const RECORD_KINDS: readonly { kind: RecordKind; many: string; one: string; says: string }[] = [
  { kind: 'customer', many: 'Customers', one: 'customer', says: 'Who brings the cars.' },
  { kind: 'vehicle', many: 'Vehicles', one: 'vehicle', says: 'Cars that come back, and how they are driven.' },
  { kind: 'part', many: 'Parts', one: 'part', says: 'What was fitted, what it cost and how long it took.' },
  { kind: 'model-card', many: 'Model cards', one: 'model card', says: 'How a model runs on rollers.' },
  {
    kind: 'method',
    many: 'House methods',
    one: 'house method',
    says: 'The shop’s written protocol. A job keeps the state it was opened with; later edits do not rewrite history.',
  },
];

const DRIVEN = [
  ['', 'not recorded'],
  ['front', 'front'],
  ['rear', 'rear'],
  ['all', 'all'],
  ['motorcycle', 'motorcycle'],
] as const;
const ASPIRATION = [
  ['natural', 'natural'],
  ['turbo', 'turbo'],
  ['supercharged', 'supercharged'],
] as const;

export const RECORD_FIELDS: Record<Exclude<RecordKind, 'method'>, readonly RecordField[]> = {
  customer: [
    { path: 'contact', label: 'E-mail or telephone', kind: 'text' },
    { path: 'notes', label: 'Notes', kind: 'long' },
  ],
  vehicle: [
    { path: 'owner', label: 'Owner', kind: 'text' },
    { path: 'registration', label: 'Registration', kind: 'text', hint: 'Tells two cars of one name apart.' },
    { path: 'vin', label: 'Vehicle identification number', kind: 'text' },
    { path: 'drivenWheels', label: 'Driven wheels', kind: 'choice', choices: DRIVEN },
    { path: 'aspiration', label: 'Aspiration', kind: 'choice', choices: ASPIRATION },
    {
      path: 'transmission',
      label: 'Transmission',
      kind: 'choice',
      choices: [
        ['manual', 'manual'],
        ['automatic', 'automatic'],
        ['cvt', 'CVT'],
      ],
    },
    { path: 'massKg', label: 'Mass, kg', kind: 'number' },
    { path: 'engineToRollerRatio', label: 'Engine over roller speed', kind: 'number' },
    { path: 'modelCard', label: 'Model card', kind: 'text' },
    {
      path: 'heatSensitive',
      label: 'Known to lose over 0.2 % of power per °C',
      kind: 'flag',
    },
    {
      path: 'reference',
      label: 'Reference car: never changed, pulled once a month',
      kind: 'flag',
      hint: 'Its rounds show on the bay’s charts whether the bay still reads what it read.',
    },
    { path: 'fuel', label: 'Fuel and grade', kind: 'text' },
    { path: 'tune', label: 'Tune file and revision', kind: 'text' },
    { path: 'partsFitted', label: 'Parts already fitted', kind: 'long' },
    { path: 'tyres', label: 'Tyres and pressure', kind: 'text' },
    { path: 'oil', label: 'Oil', kind: 'text' },
  ],
  part: [
    { path: 'number', label: 'Maker’s or own number', kind: 'text' },
    { path: 'kind', label: 'Kind of part', kind: 'text' },
    { path: 'price', label: 'Price', kind: 'number' },
    { path: 'currency', label: 'Currency', kind: 'text' },
    { path: 'hours', label: 'Fitting hours', kind: 'number' },
    { path: 'supplier', label: 'Supplier', kind: 'text' },
    { path: 'adapters', label: 'Adapters and extra hardware', kind: 'long' },
    {
      path: 'promisedPercent',
      label: 'Promised gain of power, %',
      kind: 'number',
      hint: 'What its maker says; held against what was found.',
    },
    { path: 'closedCourseOnly', label: 'Closed course only', kind: 'flag' },
    {
      path: 'benchFlowLS',
      label: 'Flow on a bench, L/s',
      kind: 'number',
      hint: 'Shown beside a result, never part of it.',
    },
    { path: 'benchDropKpa', label: 'at a pressure drop of, kPa', kind: 'number' },
    { path: 'benchAirC', label: 'and an air temperature of, °C', kind: 'number' },
    { path: 'benchSource', label: 'Who measured it', kind: 'text' },
    { path: 'notes', label: 'Notes', kind: 'long' },
  ],
  'model-card': [
    { path: 'gear', label: 'Gear nearest 1:1', kind: 'text' },
    { path: 'settlePulls', label: 'Settle pulls', kind: 'number' },
    { path: 'safeRpm.0', label: 'Safe from, rpm', kind: 'number' },
    { path: 'safeRpm.1', label: 'Safe to, rpm', kind: 'number' },
    {
      path: 'sensors.intake',
      label: 'Intake air is read',
      kind: 'flag',
      hint: 'Gates exist only for sensors the car has.',
    },
    { path: 'sensors.coolant', label: 'Coolant is read', kind: 'flag' },
    { path: 'sensors.oil', label: 'Oil is read', kind: 'flag' },
    {
      path: 'baselinesSeenW',
      label: 'Peak of baselines seen before',
      kind: 'powers',
      hint: 'From three cars on, a new baseline is held against their range; this shop’s own jobs on the same bay and gear come on top.',
    },
    {
      path: 'chargeAir.sensor',
      label: 'Charge air sensor',
      kind: 'choice',
      choices: [
        ['after-cooler', 'after the intercooler'],
        ['before-cooler', 'ahead of the intercooler'],
      ],
      hint: 'Boosted cars only. The house limits hold after the cooler.',
    },
    { path: 'chargeAir.warnC', label: 'Charge air, warn, °C', kind: 'number' },
    { path: 'chargeAir.stopC', label: 'Charge air, stop, °C', kind: 'number' },
    { path: 'notes', label: 'Drive mode, traction and braking aids, strap points', kind: 'long' },
  ],
};

export function valueAt(fields: Record<string, unknown>, path: string): unknown {
  return path.split('.').reduce<unknown>((at, key) => (at as Record<string, unknown> | undefined)?.[key], fields);
}

/** A copy of the fields with one value changed. */
export function withValue(fields: Record<string, unknown>, path: string, value: unknown): Record<string, unknown> {
  const [head, ...rest] = path.split('.') as [string, ...string[]];
  if (rest.length === 0) return { ...fields, [head]: value };
  const below = fields[head];
  const key = rest.join('.');
  if (/^\d+$/.test(key)) {
    const list = Array.isArray(below) ? [...(below as unknown[])] : [1500, 6500];
    list[Number(key)] = value;
    return { ...fields, [head]: list };
  }
  return { ...fields, [head]: withValue((below as Record<string, unknown> | undefined) ?? {}, key, value) };
}

/** The members that differ from what was read. */
export function changedFields(
  before: Record<string, unknown>,
  after: Record<string, unknown>,
): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(after).filter(([name, value]) => JSON.stringify(value) !== JSON.stringify(before[name])),
  );
}
