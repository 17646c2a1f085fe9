import { simulateDay } from '../day/simulateDay.ts';
import { DEMO_DAYS } from './demoJobs.ts';
import { channelValues, fromSi, judgeJob, torqueCurve, type Job, type JudgedPull, type Pull } from '@prandel/core';

/** How an exporter of unknown make writes a pull. */
export interface CsvStyle {
  readonly delimiter: ',' | ';' | '\t';
  readonly decimal: '.' | ',';
  readonly title: string;
  /** Instant that stands above the header; null: none does. */
  readonly recordedAt: string | null;
}

/** A pull as a time-based CSV with metadata lines above its header and units in a row below it. */
export function channelCsv(job: Job, pullId: string, style: CsvStyle): string {
  const pull = job.pulls.find((p) => p.id === pullId);
  if (!pull) throw new RangeError(`no pull ${pullId}`);
  const columns: [string, string, Float64Array][] = [
    ['Time', 's', channelValues(pull, 'time_s')!],
    ['Engine speed', 'rpm', channelValues(pull, 'engine_rpm')!],
    ['Roller speed', 'rad/s', channelValues(pull, 'roller_rad_s')!],
    ['Throttle', '%', channelValues(pull, 'throttle_fraction')!.map((v) => v * 100)],
    ['Intake air', '°C', channelValues(pull, 'intake_c')!],
    ['Coolant', '°C', channelValues(pull, 'coolant_c')!],
  ];
  return table(style, columns);
}

/** A pull as rpm with power in hp and torque in lb·ft, as a sheet would show it: uncorrected, 50 rpm apart. */
export function curveCsv(job: Job, pullId: string, style: CsvStyle): string {
  const judged = judgeJob({ ...job, method: { ...job.method, correction: 'none' } }).pulls.find(
    (p: JudgedPull) => p.id === pullId,
  );
  if (!judged) throw new RangeError(`no pull ${pullId}`);
  const torque = torqueCurve(judged.power);
  const keep = Array.from(judged.power.values.keys()).filter((i) => (judged.power.first + i) % 2 === 0);
  const of = (value: (i: number) => number) => Float64Array.from(keep, value);
  return table(style, [
    ['RPM', 'rpm', of((i) => (judged.power.first + i) * 25)],
    ['Power', 'hp', of((i) => fromSi(judged.power.values[i]!, 'hp'))],
    ['Torque', 'lb-ft', of((i) => fromSi(torque.values[i]!, 'lb·ft'))],
  ]);
}

function table(
  { delimiter, decimal, title, recordedAt }: CsvStyle,
  columns: readonly [string, string, Float64Array][],
): string {
  const number = (value: number) =>
    Number.isFinite(value) ? String(Number(value.toFixed(5))).replace('.', decimal) : '';
  const rows = Array.from({ length: columns[0]![2].length }, (_, i) =>
    columns.map(([, , values]) => number(values[i]!)).join(delimiter),
  );
  return (
    [
      `# ${title}`,
      ...(recordedAt ? [`# recorded ${recordedAt.replace('T', ' ').replace(/\.\d+/, '')}`] : []),
      `# exported by the rollers' own software`,
      columns.map(([name]) => name).join(delimiter),
      columns.map(([, unit]) => unit).join(delimiter),
      ...rows,
    ].join('\r\n') + '\r\n'
  );
}

/** Files to try an import with: setups A and B of one made-up day, as two exporters of unknown make would write them. */
export function sampleCsvFiles(): [string, string][] {
  const spec = DEMO_DAYS.find((day) => day.id === 'QG-0910-2')!;
  const job = simulateDay({ ...spec, seed: 4242, effects: { B: () => 2.8 } });
  const style = ({ setupId, position, startedAt }: Pull): CsvStyle => ({
    delimiter: ';',
    decimal: ',',
    title: `Setup ${setupId}, pull ${position}`,
    recordedAt: startedAt,
  });
  const pulls = job.pulls.filter((p) => p.setupId === 'A' || p.setupId === 'B');
  return [
    ...pulls.map((p): [string, string] => [`roller-${p.id}.csv`, channelCsv(job, p.id, style(p))]),
    ...pulls.map((p): [string, string] => [
      `sheet-${p.id}.csv`,
      curveCsv(job, p.id, { ...style(p), delimiter: ',', decimal: '.' }),
    ]),
  ];
}
