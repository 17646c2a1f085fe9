import {
  isOfRollOns,
  measureFacts,
  measureName,
  measureNeeds,
  measureProblem,
  MOST_MEASURES,
  type DeclaredMeasure,
  type MeasureId,
} from '@prandel/core';
import { channelName, differenceIn, measureWords, USUAL_UNITS, type ShownUnits } from '@prandel/presentation';
import { Plus, X } from 'lucide-react';

/** A measure while it is typed; figures stay text until the question is made of it. */
export interface MeasureRow {
  readonly id: MeasureId;
  readonly channel: string;
  readonly rpm: string;
  /** Of roll-ons; empty: set by the baseline's first round. */
  readonly target: string;
  /** Road speeds, km/h. */
  readonly from: string;
  readonly to: string;
  readonly matters: string;
}

const LABELS: Record<MeasureId, string> = {
  windowMeanPower: 'Mean power over the window',
  windowMeanTorque: 'Mean torque over the window',
  peakPower: 'Peak power',
  peakTorque: 'Peak torque',
  powerAt: 'Power at an engine speed',
  torqueAt: 'Torque at an engine speed',
  start: 'Temperature at the start of a pull',
  end: 'Temperature at the end of a pull',
  peak: 'Temperature at its hottest',
  rise: 'Rise of a temperature over a pull',
  mean: 'A channel, mean over the window',
  effectiveness: 'Effectiveness of the cooler',
  fade: 'Fade of power from pull to pull',
  rollOnTime: 'Answer to the pedal: time to a torque',
  responseDeficit: 'Answer to the pedal: torque not there',
  roadTime: 'Time between two speeds on the road',
};

/** Channels that a car can have a sensor for. */
const TEMPERATURES = ['intake_c', 'charge_in_c', 'charge_c', 'coolant_c', 'oil_c', 'gearbox_c', 'exhaust_c'];
const OTHERS = ['inlet_vacuum_kpa', 'manifold_kpa', 'lambda', 'ignition_deg'];
/** What a pull is read from where the cooler is asked about. */
const COOLER = ['charge_in_c', 'charge_c', 'ambient_c'];
/** Start temperatures that the bay reads without a channel. */
const READ_AT_START = ['intake_c', 'coolant_c', 'oil_c'];

const isTemperature = (channel: string) => measureFacts({ id: 'mean', channel }).quantity === 'temperature';

/** Rows of declared measures. */
export const rowsOf = (measures: readonly DeclaredMeasure[]): MeasureRow[] =>
  measures.map(({ id, channel = '', rpm, target, fromKmH, toKmH, meaningful }) => ({
    ...{ id, channel, matters: String(meaningful) },
    ...{ rpm: String(rpm ?? ''), target: String(target ?? ''), from: String(fromKmH ?? ''), to: String(toKmH ?? '') },
  }));

export const newMeasureRow = (id: MeasureId, channel = ''): MeasureRow => ({
  ...{ id, channel, rpm: '', target: '', from: '80', to: '120' },
  matters: String(measureFacts({ id, ...(channel ? { channel } : {}) }).meaningful),
});

/** A measure as a request holds it. */
type AskedMeasure = Omit<DeclaredMeasure, 'windowRpm'> & { windowRpm?: [number, number] };

/** The declared measures of typed rows; a window of its own that a package brought is kept. */
export function measuresOf(rows: readonly MeasureRow[], before: readonly DeclaredMeasure[] = []): AskedMeasure[] {
  return rows.map(({ id, channel, rpm, target, from, to, matters }) => {
    const need = measureNeeds(id);
    const asked = {
      id,
      ...(need === 'channel' ? { channel } : {}),
      ...(need === 'rpm' ? { rpm: Number(rpm) } : {}),
      ...(need === 'speeds' ? { fromKmH: Number(from), toKmH: Number(to) } : {}),
      ...(isOfRollOns(id) && target.trim() !== '' ? { target: Number(target.replace(',', '.')) } : {}),
    };
    const own = before.find((m) => measureName(m) === measureName(asked))?.windowRpm;
    return {
      ...asked,
      ...(own ? { windowRpm: [...own] as [number, number] } : {}),
      meaningful: Number(matters.replace(',', '.')),
    };
  });
}

/** What keeps typed rows from being declared; null: nothing. */
export function rowsProblem(rows: readonly MeasureRow[]): string | null {
  const names = measuresOf(rows).map(measureName);
  if (new Set(names).size < names.length) return 'The same measure stands here twice.';
  const wrong = measuresOf(rows)
    .map(measureProblem)
    .find((problem) => problem !== null);
  return wrong ? `${wrong.charAt(0).toUpperCase()}${wrong.slice(1)}.` : null;
}

/**
 * One to three measures, each with what it is read from and the size that would matter.
 * @param recorded channels that the pulls of the job have; null: nobody knows yet
 */
export function MeasuresField({
  rows,
  recorded,
  units = USUAL_UNITS,
  onEdit,
}: {
  rows: readonly MeasureRow[];
  recorded: readonly string[] | null;
  units?: ShownUnits;
  onEdit: (rows: MeasureRow[]) => void;
}) {
  const problem = rowsProblem(rows);
  const put = (i: number, row: MeasureRow) => onEdit(rows.map((old, k) => (k === i ? row : old)));
  const missing = (id: MeasureId, channels: readonly string[]) =>
    recorded === null || (id === 'start' && channels.every((c) => READ_AT_START.includes(c)))
      ? []
      : channels.filter((c) => !recorded.includes(c));
  const channelsOf = (id: MeasureId, own: string) => {
    const known = id === 'mean' ? [...OTHERS, ...TEMPERATURES] : TEMPERATURES;
    const more = [...(recorded ?? []), ...(own ? [own] : [])].filter((c) => id === 'mean' || isTemperature(c));
    return [...new Set([...known, ...more])];
  };
  const chosen = (id: MeasureId, before: MeasureRow): MeasureRow => {
    if (measureNeeds(id) !== 'channel') return newMeasureRow(id);
    const fits = channelsOf(id, '').filter((c) => missing(id, [c]).length === 0);
    const channel = fits.includes(before.channel) ? before.channel : (fits[0] ?? channelsOf(id, '')[0]!);
    return newMeasureRow(id, channel);
  };
  return (
    <fieldset className="grid gap-2" aria-label="Measures">
      {rows.map((row, i) => {
        const need = measureNeeds(row.id);
        const { scale, unit } = measureFacts({ id: row.id, channel: row.channel });
        const lacking = missing(row.id, need === 'channel' ? [row.channel] : row.id === 'effectiveness' ? COOLER : []);
        return (
          <div key={i} className="flex flex-wrap items-end gap-2">
            <label className="field min-w-[210px] grow basis-[210px]">
              <span>{i === 0 ? 'Measure' : `Measure ${i + 1}`}</span>
              <select
                className="input"
                value={row.id}
                onChange={(e) => put(i, chosen(e.target.value as MeasureId, row))}
              >
                {(Object.keys(LABELS) as MeasureId[]).map((id) => (
                  <option key={id} value={id} disabled={id === 'effectiveness' && missing(id, COOLER).length > 0}>
                    {LABELS[id]}
                    {id === 'effectiveness' && missing(id, COOLER).length > 0
                      ? ` (not recorded: ${missing(id, COOLER).map(channelName).join(', ')})`
                      : ''}
                  </option>
                ))}
              </select>
            </label>
            {need === 'channel' && (
              <label className="field min-w-[150px] grow basis-[150px]">
                <span>of</span>
                <select
                  className="input"
                  aria-label={`Channel of measure ${i + 1}`}
                  value={row.channel}
                  onChange={(e) => put(i, newMeasureRow(row.id, e.target.value))}
                >
                  {channelsOf(row.id, row.channel).map((c) => (
                    <option key={c} value={c} disabled={missing(row.id, [c]).length > 0}>
                      {channelName(c)}
                      {missing(row.id, [c]).length > 0 ? ' (not recorded)' : ''}
                    </option>
                  ))}
                </select>
              </label>
            )}
            {need === 'rpm' && (
              <label className="field w-[110px]">
                <span>at, rpm</span>
                <input
                  className="input"
                  inputMode="numeric"
                  aria-label={`Engine speed of measure ${i + 1}, rpm`}
                  value={row.rpm}
                  onChange={(e) => put(i, { ...row, rpm: e.target.value })}
                />
              </label>
            )}
            {need === 'speeds' &&
              (['from', 'to'] as const).map((end) => (
                <label key={end} className="field w-[96px]">
                  <span>{end === 'from' ? 'from, km/h' : 'to, km/h'}</span>
                  <input
                    className="input"
                    inputMode="numeric"
                    aria-label={`Road speed of measure ${i + 1}, ${end}, km/h`}
                    value={row[end]}
                    onChange={(e) => put(i, { ...row, [end]: e.target.value })}
                  />
                </label>
              ))}
            {isOfRollOns(row.id) && (
              <label className="field w-[210px]">
                <span>To, N·m (empty: 90 % of the baseline)</span>
                <input
                  className="input"
                  inputMode="decimal"
                  aria-label={`Torque of measure ${i + 1} that counts as there, N·m`}
                  value={row.target}
                  onChange={(e) => put(i, { ...row, target: e.target.value })}
                />
              </label>
            )}
            <label className="field w-[128px]">
              <span>{['Would matter', scale === 'log' ? '%' : scaleUnit(unit, units)].filter(Boolean).join(', ')}</span>
              <input
                className="input"
                inputMode="decimal"
                aria-label={`Difference of measure ${i + 1} that would matter`}
                value={row.matters}
                onChange={(e) => put(i, { ...row, matters: e.target.value })}
              />
            </label>
            {rows.length > 1 && (
              <button
                type="button"
                className="btn sm"
                aria-label={`Remove measure ${i + 1}`}
                onClick={() => onEdit(rows.filter((_, k) => k !== i))}
              >
                <X size={16} aria-hidden />
              </button>
            )}
            {lacking.length > 0 && (
              <span className="text-wait basis-full text-[11.5px]">
                The pulls so far have no {lacking.map(channelName).join(', no ')}: they will not read on{' '}
                {measureWords(measureName({ id: row.id, channel: row.channel })).subject}.
              </span>
            )}
          </div>
        );
      })}
      {problem && (
        <span className="wrong text-act text-[12px]" role="alert">
          {problem}
        </span>
      )}
      {rows.length < MOST_MEASURES && (
        <button
          type="button"
          className="btn sm justify-self-start"
          onClick={() => onEdit([...rows, chosen('start', newMeasureRow('start'))])}
        >
          <Plus size={14} aria-hidden /> One more measure
        </button>
      )}
    </fieldset>
  );
}

/** Differences are typed in the measure's own unit; degrees are Celsius whatever is read. */
function scaleUnit(unit: string, units: ShownUnits): string {
  return unit === '°C' ? '°C' : differenceIn(unit, units).unit;
}
