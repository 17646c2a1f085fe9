import { channelValues, correctionFactor, fromSi, type Air, type Job, type Pull } from '@prandel/core';

/** How software of unknown make writes pulls. */
export interface Shape {
  readonly arrangement: 'one' | 'blocks' | 'named' | 'side-by-side' | 'side-by-side in the header';
  readonly separator: ',' | ';' | '\t' | 'blanks';
  readonly decimal: '.' | ',';
  readonly about: 'none' | 'key: value' | 'key;value' | 'quoted';
  readonly aboutStands: 'above' | 'below';
  readonly units: 'in the header' | 'in a row' | 'in cells';
  readonly axis: 'rpm' | 'rpm x1000' | 'road speed';
  readonly gives: 'power' | 'torque' | 'both';
  readonly clock: 'none' | 'elapsed' | 'time of day';
  readonly language: 'en' | 'de';
  /** A table of results above the numbers. */
  readonly results: boolean;
  /** The rollers run down after the pull. */
  readonly coastDown: boolean;
  /** Under which standard power and torque are written. */
  readonly corrected: boolean;
  readonly encoding: 'utf-8' | 'utf-16le' | 'windows-1252';
}

export const PLAIN_SHAPE: Shape = {
  arrangement: 'one',
  separator: ';',
  decimal: ',',
  about: 'key: value',
  aboutStands: 'above',
  units: 'in the header',
  axis: 'rpm',
  gives: 'both',
  clock: 'none',
  language: 'en',
  results: false,
  coastDown: false,
  corrected: false,
  encoding: 'utf-8',
};

/** Gear and tyre of the made-up car: engine speed over road speed, rpm per km/h. */
export const RPM_PER_KM_H = 36.5;

/** A pull as such software knows it; torque at the rollers in N·m, uncorrected. */
export interface ForeignPull {
  readonly name: string;
  /** On the clock of the shop, `2026-09-14T10:20:00`. */
  readonly local: string;
  readonly timeS: readonly number[];
  readonly rpm: readonly number[];
  readonly torqueNm: readonly number[];
  readonly intakeC: readonly number[];
  readonly air: Air;
}

const WORDS = {
  en: {
    ...{
      rpm: 'Engine speed',
      power: 'Power',
      torque: 'Torque',
      time: 'Time',
      intake: 'Intake air',
      speed: 'Road speed',
    },
    ...{
      date: 'Date',
      airTemp: 'Air temperature',
      pressure: 'Air pressure',
      humidity: 'Humidity',
      factor: 'Correction factor',
    },
    ...{ standard: 'Correction', ratio: 'Ratio', none: 'none', run: 'Run' },
  },
  de: {
    ...{
      rpm: 'Drehzahl',
      power: 'Leistung',
      torque: 'Drehmoment',
      time: 'Zeit',
      intake: 'Ansaugluft',
      speed: 'Geschwindigkeit',
    },
    ...{
      date: 'Datum',
      airTemp: 'Lufttemperatur',
      pressure: 'Luftdruck',
      humidity: 'Luftfeuchte',
      factor: 'Korrekturfaktor',
    },
    ...{ standard: 'Korrektur', ratio: 'Übersetzung', none: 'keine', run: 'Lauf' },
  },
} as const;

/** The text of a file; cells of one line stand between separators, or between blanks. */
export function foreignText(pulls: readonly ForeignPull[], shape: Shape): string {
  const about = aboutLines(pulls[0]!, shape);
  const results = shape.results ? resultLines(pulls, shape) : [];
  const above = shape.aboutStands === 'above' ? about : [];
  const below = shape.aboutStands === 'below' && about.length > 0 ? ['', ...about] : [];
  return [...above, ...results, ...body(pulls, shape), ...below, ''].join('\r\n');
}

/** The file as it lies on the disk. */
export function foreignFile(pulls: readonly ForeignPull[], shape: Shape): Uint8Array {
  const text = foreignText(pulls, shape);
  return Uint8Array.from(
    shape.encoding === 'utf-8'
      ? Buffer.from(text)
      : shape.encoding === 'utf-16le'
        ? Buffer.from(`\uFEFF${text}`, 'utf16le')
        : Buffer.from(text, 'latin1'),
  );
}

/** Columns of one pull with their units. */
function columnsOf(pull: ForeignPull, shape: Shape): { name: string; unit: string; cells: string[] }[] {
  const words = WORDS[shape.language];
  const factor = shape.corrected ? correctionFactor('sae-j1349', pull.air).factor : 1;
  const down = shape.coastDown ? Array.from({ length: 12 }, (_, k) => k) : [];
  const last = pull.rpm.length - 1;
  const rpm = [...pull.rpm, ...down.map((k) => pull.rpm[last]! * (1 - 0.04 * (k + 1)))];
  const torque = [...pull.torqueNm.map((t) => t * factor), ...down.map(() => -8)];
  const intake = [...pull.intakeC, ...down.map(() => pull.intakeC[last]!)];
  const step = pull.timeS[1]! - pull.timeS[0]!;
  const time = [...pull.timeS, ...down.map((k) => pull.timeS[last]! + step * (k + 1))];
  const power = rpm.map((n, i) => (torque[i]! * n * Math.PI) / 30 / 1000);
  const written = (values: readonly number[], digits: number) => values.map((v) => numberText(v, digits, shape));
  const start = Date.parse(`${pull.local}Z`);
  const clock = time.map((s) => new Date(start + (s - time[0]!) * 1000).toISOString().slice(11, 22).replace('.', '.'));
  const axis = {
    rpm: { name: words.rpm, unit: shape.language === 'de' ? '1/min' : 'rpm', cells: written(rpm, 0) },
    'rpm x1000': {
      name: words.rpm,
      unit: 'x1000',
      cells: written(
        rpm.map((n) => n / 1000),
        3,
      ),
    },
    'road speed': {
      name: words.speed,
      unit: 'km/h',
      cells: written(
        rpm.map((n) => n / RPM_PER_KM_H),
        3,
      ),
    },
  }[shape.axis];
  return [
    axis,
    ...(shape.gives === 'torque' ? [] : [{ name: words.power, unit: 'kW', cells: written(power, 3) }]),
    ...(shape.gives === 'power' ? [] : [{ name: words.torque, unit: 'Nm', cells: written(torque, 2) }]),
    ...(shape.clock === 'none'
      ? []
      : [
          {
            name: words.time,
            unit: shape.clock === 'elapsed' ? 's' : '',
            cells: shape.clock === 'elapsed' ? written(time, 3) : clock,
          },
        ]),
    { name: words.intake, unit: '°C', cells: written(intake, 1) },
  ];
}

function body(pulls: readonly ForeignPull[], shape: Shape): string[] {
  const tables = pulls.map((pull) => ({ pull, columns: columnsOf(pull, shape) }));
  const words = WORDS[shape.language];
  const title = (c: { name: string; unit: string }) =>
    shape.units === 'in the header' && c.unit !== '' ? `${c.name} [${c.unit}]` : c.name;
  const cell = (c: { unit: string; cells: string[] }, i: number) =>
    i >= c.cells.length ? '' : shape.units === 'in cells' && c.unit !== '' ? `${c.cells[i]!} ${c.unit}` : c.cells[i]!;
  const rows = (columns: ReturnType<typeof columnsOf>) =>
    Array.from({ length: Math.max(...columns.map((c) => c.cells.length)) }, (_, i) =>
      line(
        columns.map((c) => cell(c, i)),
        shape,
      ),
    );
  const header = (columns: ReturnType<typeof columnsOf>) => [
    line(columns.map(title), shape),
    ...(shape.units === 'in a row'
      ? [
          line(
            columns.map((c) => c.unit || '-'),
            shape,
          ),
        ]
      : []),
  ];
  if (shape.arrangement === 'named') {
    const named = tables.map(({ pull, columns }) => [
      { name: words.run, unit: '', cells: columns[0]!.cells.map(() => pull.name) },
      ...columns,
    ]);
    return [...header(named[0]!), ...named.flatMap(rows)];
  }
  if (shape.arrangement === 'side-by-side')
    return [
      line(
        tables.flatMap(({ pull, columns }) => columns.map((_, i) => (i === 0 ? pull.name : ''))),
        shape,
      ),
      ...header(tables.flatMap((t) => t.columns)),
      ...rows(tables.flatMap((t) => t.columns)),
    ];
  if (shape.arrangement === 'side-by-side in the header') {
    const all = tables.flatMap(({ pull, columns }) => columns.map((c) => ({ ...c, name: `${pull.name} ${c.name}` })));
    return [...header(all), ...rows(all)];
  }
  return tables.flatMap(({ pull, columns }, k) => [
    ...(shape.arrangement === 'blocks' ? [...(k > 0 ? [''] : []), `${pull.name}, ${pull.local.slice(11)}`] : []),
    ...header(columns),
    ...rows(columns),
  ]);
}

function line(cells: readonly string[], { separator, decimal }: Shape): string {
  if (separator === 'blanks') return cells.map((c) => c.padStart(18)).join('  ');
  return cells
    .map((c) => (c.includes(separator) || (separator === ',' && decimal === ',' && c.includes(',')) ? `"${c}"` : c))
    .join(separator);
}

const numberText = (value: number, digits: number, { decimal }: Shape) => value.toFixed(digits).replace('.', decimal);

function aboutLines(pull: ForeignPull, shape: Shape): string[] {
  if (shape.about === 'none') return [];
  const words = WORDS[shape.language];
  const number = (value: number, digits: number) => numberText(value, digits, shape);
  const [date, clock] = pull.local.split('T') as [string, string];
  const [year, month, day] = date.split('-') as [string, string, string];
  const factor = correctionFactor('sae-j1349', pull.air).factor;
  const fields: [string, string][] = [
    [words.date, shape.language === 'de' ? `${day}.${month}.${year} ${clock}` : `${date} ${clock}`],
    [words.airTemp, `${number(pull.air.airC, 1)} °C`],
    [words.pressure, `${number(pull.air.pressureHpa, 1)} ${shape.language === 'de' ? 'mbar' : 'hPa'}`],
    [words.humidity, `${number(pull.air.relativeHumidity * 100, 0)} %`],
    ...(shape.corrected
      ? ([
          [words.standard, 'SAE J1349'],
          [words.factor, number(factor, 4)],
        ] as [string, string][])
      : ([[words.standard, words.none]] as [string, string][])),
    ...(shape.axis === 'road speed'
      ? ([[words.ratio, `${number(RPM_PER_KM_H, 2)} rpm/(km/h)`]] as [string, string][])
      : []),
  ];
  return fields.map(([key, value]) =>
    shape.about === 'key: value'
      ? `${key}: ${value}`
      : shape.about === 'quoted'
        ? `"${key}"${quotedMark(shape)}"${value}"`
        : `${key}${quotedMark(shape)}${value}`,
  );
}

const quotedMark = ({ separator }: Shape) => (separator === 'blanks' ? ': ' : separator);

function resultLines(pulls: readonly ForeignPull[], shape: Shape): string[] {
  const peak = (p: ForeignPull) => Math.max(...p.torqueNm);
  return [
    line(['No.', 'Peak torque', 'Peak at'], shape),
    ...pulls.map((p, k) =>
      line(
        [String(k + 1), numberText(peak(p), 1, shape), numberText(p.rpm[p.torqueNm.indexOf(peak(p))]!, 0, shape)],
        shape,
      ),
    ),
    '',
  ];
}

/** A pull of a simulated job as foreign software would know it: torque from the rollers' acceleration, read 25 times a second. */
export function foreignPull(job: Job, pull: Pull, offsetMinutes: number): ForeignPull {
  const of = (name: string) => channelValues(pull, name)!;
  const [time, rpm, roller, intake, throttle] = [
    'time_s',
    'engine_rpm',
    'roller_rad_s',
    'intake_c',
    'throttle_fraction',
  ].map(of) as [Float64Array, Float64Array, Float64Array, Float64Array, Float64Array];
  const inertia = job.bay.rollerInertiaKgM2!;
  const from = throttle.findIndex((v) => v > 0.9);
  const every = Math.max(1, Math.round(0.04 / (time[1]! - time[0]!)));
  const span = Math.max(4, every);
  const at: number[] = [];
  for (let i = from + span; i + span < time.length && throttle[i]! > 0.9; i += every) at.push(i);
  const torque = at.map(
    (i) =>
      ((inertia * (roller[i + span]! - roller[i - span]!)) / (time[i + span]! - time[i - span]!)) *
      (roller[i]! / ((rpm[i]! * Math.PI) / 30)),
  );
  return {
    name: `Run ${pull.id}`,
    local: new Date(Date.parse(pull.startedAt!) + offsetMinutes * 60_000).toISOString().slice(0, 19),
    timeS: at.map((i) => time[i]! - time[from]!),
    rpm: at.map((i) => rpm[i]!),
    torqueNm: torque,
    intakeC: at.map((i) => intake[i]!),
    air: { airC: pull.airC!, pressureHpa: pull.pressureHpa!, relativeHumidity: pull.relativeHumidity! },
  };
}

/** Peak power of a pull as the software would print it, kW. */
export const foreignPeakKw = (pull: ForeignPull) =>
  fromSi(Math.max(...pull.rpm.map((n, i) => (pull.torqueNm[i]! * n * Math.PI) / 30)), 'kW');
