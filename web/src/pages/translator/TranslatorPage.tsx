import {
  CORRECTION_NAMES,
  factorOf,
  isCorrectionId,
  spreadOf,
  translations,
  type Air,
  type AnyStandard,
  type CompressionIgnition,
  type OwnStandard,
} from '@prandel/core';
import { outsideWords, plain, signed } from '@prandel/presentation';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Upload } from 'lucide-react';
import { useState } from 'react';
import { ask, bring, queries, type Schemas } from '../../api/client.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { DieselFields } from '../../parts/DieselFields.tsx';
import { Field, Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';
import { NewStandard } from './NewStandard.tsx';

type Row = Schemas['StandardRow'];
type Sheet = Schemas['SheetPull'];

const UNITS = ['kW', 'hp', 'PS', 'N·m', 'lb·ft'] as const;
const numberOf = (text: string) => (text.trim() === '' ? NaN : Number(text.replace(',', '.')));
const REFRESH = { queryKey: ['standards'] };

/** A standard of the shop's own as the core takes it; null for one that is not whole. */
function ownOf({ kind, factor, referenceC, referenceHpa, pressure, mechanicalEfficiency }: Row): OwnStandard | null {
  if (kind === 'factor') return factor === null ? null : { kind, factor };
  if (referenceC === null || referenceHpa === null || pressure === null || mechanicalEfficiency === null) return null;
  return { kind, referenceC, referenceHpa, pressure, mechanicalEfficiency };
}

/** "My sheet says X under standard S in this weather": the same number under all others, and uncorrected. Needs no job. */
export function TranslatorPage() {
  const saved = useQuery({ queryKey: ['standards'], queryFn: () => ask('get', '/api/standards') });
  const [value, setValue] = useState('100');
  const [unit, setUnit] = useState<(typeof UNITS)[number]>('kW');
  const [from, setFrom] = useState('sae-j607');
  const [printed, setPrinted] = useState('');
  const [airC, setAirC] = useState('20');
  const [pressure, setPressure] = useState('1000');
  const [humidity, setHumidity] = useState('50');
  const [engine, setEngine] = useState<CompressionIgnition | null>(null);
  const [diesel, setDiesel] = useState(false);
  const remove = useMutation({
    mutationFn: (id: string) => ask('delete', '/api/standards/{id}', { params: { path: { id } } }),
    onSettled: () => queries.invalidateQueries(REFRESH),
  });
  const [sheet, setSheet] = useState<readonly Sheet[]>([]);
  const take = (pull: Sheet) => {
    const watts = pull.peakPowerW;
    setUnit('kW');
    setValue(watts === null ? '' : (watts / 1000).toFixed(1));
    if (pull.standard !== null) setFrom(pull.standard);
    setPrinted(pull.factor === null ? '' : String(pull.factor));
    if (pull.airC !== null) setAirC(String(pull.airC));
    if (pull.pressureHpa !== null) setPressure(String(pull.pressureHpa));
    if (pull.relativeHumidity !== null) setHumidity(String(Math.round(100 * pull.relativeHumidity)));
  };
  const read = useMutation({
    mutationFn: (file: File) => {
      const form = new FormData();
      form.append('file', file);
      return bring<Sheet[]>('/api/standards/sheets', form);
    },
    onSuccess: (pulls) => {
      setSheet(pulls);
      if (pulls[0]) take(pulls[0]);
    },
  });
  const own = (saved.data ?? []).flatMap((row) => {
    const standard = ownOf(row);
    return standard ? [{ row, standard }] : [];
  });
  const given = isCorrectionId(from) ? from : own.find(({ row }) => row.id === from)?.standard;
  const air: Air = {
    airC: numberOf(airC),
    pressureHpa: numberOf(pressure),
    relativeHumidity: numberOf(humidity) / 100,
  };
  const problem = problemOf(numberOf(value), air, printed, given);
  const factor = printed.trim() === '' ? null : numberOf(printed);
  const asked = { printed: factor, air, own: own.map((o) => o.standard), ...(diesel && engine ? { engine } : {}) };
  const rows = problem || given === undefined ? [] : translations(numberOf(value), { ...asked, from: given });
  const shownRows = rows.filter((r) => r.standard !== 'iso-1585-ci' || diesel);
  const spread = spreadOf(shownRows.filter((r) => r.standard !== 'none'));
  const computed = given !== undefined && !problem ? factorOf(given, air, asked.engine).factor : null;
  const digits = unit === 'N·m' || unit === 'lb·ft' ? 0 : 1;
  const nameOf = (standard: AnyStandard) =>
    typeof standard === 'string'
      ? CORRECTION_NAMES[standard]
      : (own.find((o) => o.standard === standard)?.row.name ?? '');
  return (
    <div className="mx-auto grid max-w-[1280px] items-start gap-3 p-4 lg:grid-cols-[420px_minmax(0,1fr)]">
      <div className="lg:col-span-2">
        <h1>Translator</h1>
        <p className="text-ink-2">
          One measured number stands on sheets under several standards. Here it is under all of them.
        </p>
      </div>
      <section className="sheet card grid gap-3" aria-label="The sheet">
        <h2>The sheet says</h2>
        <For role="technician">
          <label className="btn justify-self-start">
            <Upload size={15} aria-hidden />
            {read.isPending ? 'Reading …' : 'Take it from a curve file'}
            <input
              type="file"
              className="sr-only"
              aria-label="Curve file"
              onChange={(e) => {
                const [file] = Array.from(e.target.files ?? []);
                e.target.value = '';
                if (file) read.mutate(file);
              }}
            />
          </label>
        </For>
        {read.error && <Notice kind="bad">{read.error.message}</Notice>}
        {sheet.length > 1 && (
          <Field label="Pull of the file">
            <select className="input" onChange={(e) => take(sheet[Number(e.target.value)]!)}>
              {sheet.map((pull, k) => (
                <option key={k} value={k}>
                  {pull.name}
                </option>
              ))}
            </select>
          </Field>
        )}
        <div className="grid grid-cols-[minmax(0,1fr)_110px] gap-3">
          <Field label="Number">
            <input className="input" inputMode="decimal" value={value} onChange={(e) => setValue(e.target.value)} />
          </Field>
          <Field label="Unit">
            <select className="input" value={unit} onChange={(e) => setUnit(e.target.value as typeof unit)}>
              {UNITS.map((u) => (
                <option key={u}>{u}</option>
              ))}
            </select>
          </Field>
        </div>
        <Field label="Under">
          <select
            className="input"
            value={from}
            onChange={(e) => {
              setFrom(e.target.value);
              if (e.target.value === 'iso-1585-ci') setDiesel(true);
            }}
          >
            {Object.entries(CORRECTION_NAMES).map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
            {own.map(({ row }) => (
              <option key={row.id} value={row.id}>
                {row.name}
              </option>
            ))}
          </select>
        </Field>
        <Field
          label="Printed factor"
          hint={checkWords(factor, computed) ?? 'Empty: computed from the weather. A printed one is believed.'}
        >
          <input className="input" inputMode="decimal" value={printed} onChange={(e) => setPrinted(e.target.value)} />
        </Field>
        <div className="grid grid-cols-3 gap-3">
          <Field label="Air, °C">
            <input className="input" inputMode="decimal" value={airC} onChange={(e) => setAirC(e.target.value)} />
          </Field>
          <Field label="Station, hPa">
            <input
              className="input"
              inputMode="decimal"
              value={pressure}
              onChange={(e) => setPressure(e.target.value)}
            />
          </Field>
          <Field label="Humidity, %">
            <input
              className="input"
              inputMode="decimal"
              value={humidity}
              onChange={(e) => setHumidity(e.target.value)}
            />
          </Field>
        </div>
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={diesel} onChange={(e) => setDiesel(e.target.checked)} />A compression-ignition
          engine
        </label>
        {diesel && <DieselFields value={engine} onChange={setEngine} />}
      </section>
      <section className="sheet card grid gap-2" aria-label="Under each standard">
        <h2>Under each standard</h2>
        {problem ? (
          <Notice>{problem}</Notice>
        ) : (
          <>
            <table className="table">
              <thead>
                <tr>
                  <th>Standard</th>
                  <th className="r">Factor</th>
                  <th className="r">{unit}</th>
                  <th className="r">Against the sheet</th>
                  <th>Validity</th>
                </tr>
              </thead>
              <tbody>
                {shownRows.map((row) => {
                  const mine = row.standard === given;
                  const name = nameOf(row.standard);
                  return (
                    <tr key={name} data-given={mine}>
                      <td className={mine ? 'font-[650]' : ''}>
                        {name}
                        {mine && <span className="text-ink-2 font-[450]"> · the sheet</span>}
                      </td>
                      <td className="r">{row.factor === null ? '–' : row.factor.toFixed(4)}</td>
                      <td className="r text-[16px] font-[640]">
                        {row.value === null ? '–' : plain(row.value, digits)}
                      </td>
                      <td className="r">{row.percent === null ? '–' : `${signed(row.percent, 1)} %`}</td>
                      <td className="text-wait">
                        {row.factor === null
                          ? 'Needs the engine’s fuel and boost.'
                          : row.outside.map(outsideWords).join(', ')}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
            {spread && (
              <p>
                Between the standards: <b>{plain(spread.low, digits)}</b> to{' '}
                <b>
                  {plain(spread.high, digits)} {unit}
                </b>
                , {spread.percent.toFixed(1)} % apart, of one and the same measurement.
              </p>
            )}
          </>
        )}
      </section>
      <section className="sheet card grid gap-2 lg:col-span-2" aria-label="Standards of the shop">
        <h2>Standards of the shop</h2>
        {saved.error && <Notice kind="bad">{saved.error.message}</Notice>}
        {own.length === 0 && (
          <p className="text-ink-2">
            None yet. Sheets from elsewhere follow variants of their own; enter one to have it in the table.
          </p>
        )}
        {own.map(({ row }) => (
          <div key={row.id} className="flex flex-wrap items-center gap-3">
            <b>{row.name}</b>
            <span className="text-ink-2">{wordsOf(row)}</span>
            <For role="technician">
              <AskInPlace
                label={`Remove ${row.name}`}
                question="Remove this standard? No job uses it."
                yes="Remove"
                busy={remove.isPending}
                onYes={() => remove.mutate(row.id)}
              >
                Remove
              </AskInPlace>
            </For>
          </div>
        ))}
        <For role="technician">
          <NewStandard onAdded={() => queries.invalidateQueries(REFRESH)} />
        </For>
      </section>
    </div>
  );
}

function problemOf(value: number, air: Air, printed: string, given: AnyStandard | undefined): string | null {
  if (!(value > 0)) return 'Write the number that the sheet shows.';
  if (given === undefined) return 'Choose the standard of the sheet.';
  if (!(air.airC > -60 && air.airC < 80)) return 'Air temperature from −60 to 80 °C.';
  if (!(air.pressureHpa >= 500 && air.pressureHpa <= 1100))
    return 'Station pressure from 500 to 1100 hPa, as a station at that place reads it.';
  if (!(air.relativeHumidity >= 0 && air.relativeHumidity <= 1)) return 'Humidity from 0 to 100 %.';
  return printed.trim() !== '' && !(numberOf(printed) > 0.2 && numberOf(printed) < 5)
    ? 'A printed factor lies between 0.2 and 5.'
    : null;
}

function checkWords(printed: number | null, computed: number | null): string | null {
  if (printed === null || !(printed > 0)) return null;
  return computed === null
    ? 'It is believed.'
    : `Printed ${printed.toFixed(3)}, computed ${computed.toFixed(3)}. The printed one is believed.`;
}

function wordsOf(row: Row): string {
  return row.kind === 'factor'
    ? `a printed factor of ${row.factor}`
    : `${row.referenceC} °C, ${row.referenceHpa} hPa ${row.pressure}, efficiency ${row.mechanicalEfficiency}`;
}
