import { CORRECTION_NAMES, isCorrectionId, namedFactor } from '@prandel/core';
import { Field } from '../../parts/Field.tsx';
import { ARRANGED, ColumnTable, type Columns } from '../import/ColumnTable.tsx';
import type { Schemas } from '../../api/client.ts';
import { airOf, NO_ANSWERS, type Answers, type Day, type Laid } from './dayState.ts';

/** Files of one header. */
export interface ShapeOfFiles {
  readonly signature: string;
  readonly files: readonly Schemas['StagedFile'][];
  readonly columns: Columns;
  readonly answers: Answers | null;
  /** The answers come from another day, or from the files; nobody has touched them. */
  readonly proposed: 'remembered' | 'files' | null;
}

const STATES = [
  ['uncorrected', 'No, as measured'],
  ['as-stated', 'As each file says'],
  ['corrected', 'Corrected'],
  ['scaled', 'Scaled'],
  ['unknown', 'Nobody knows'],
] as const;
const WRITTEN = { separated: '', 'columns-of-blanks': 'columns of blanks, ', workbook: 'workbook, ' } as const;

/** How the numbers of files of one header stand, and what their columns are. */
export function NumbersCard({
  shape,
  number,
  several,
  pulls,
  rows,
  open,
  onAnswers,
  onColumns,
}: {
  shape: ShapeOfFiles;
  number: number;
  several: boolean;
  /** Pulls of the day, of which `rows` are those of this shape. */
  pulls: readonly Laid[];
  rows: Day;
  /** Whether the columns are shown at once: nothing came of them. */
  open: boolean;
  onAnswers: (answers: Answers) => void;
  onColumns: (columns: Columns) => void;
}) {
  const { answers, files } = shape;
  const first = files[0]!;
  const set = (patch: Partial<Answers>) =>
    onAnswers({ ...NO_ANSWERS, ...answers, state: answers?.state ?? 'unknown', ...patch });
  const factor = (text: string) => {
    const value = Number(text.replace(',', '.'));
    return text.trim() === '' || !(value > 0) ? null : value;
  };
  const stated = rows.flatMap((r) => (pulls[r.place]!.state ? [pulls[r.place]!.state!] : []));
  const overSpeed =
    shape.columns.some((c) => c.role === 'roadSpeed') &&
    !shape.columns.some((c) => c.role === 'engineSpeed' || c.role === 'rollerSpeed');
  const example = rows[0] ? namedFactor(answers?.standard ?? null, airOf(rows[0], pulls)) : null;
  return (
    <section className="sheet card grid gap-2" aria-label={`Files of shape ${number}`}>
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h2>{several ? `Shape ${number}: ${files.length} ${files.length === 1 ? 'file' : 'files'}` : 'The numbers'}</h2>
        <span className="text-ink-2">
          {WRITTEN[first.written ?? 'separated']}
          {ARRANGED[first.arrangement ?? 'one']}
          {several ? `, such as ${first.name}` : ''}
        </span>
      </div>
      <fieldset className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <legend className="float-left mr-4 font-[620]">Already weather-corrected or scaled?</legend>
        {STATES.filter(([state]) => state !== 'as-stated' || stated.length > 0).map(([state, words]) => (
          <label key={state} className="flex min-h-[28px] items-center gap-2">
            <input
              type="radio"
              name={`state ${number}`}
              checked={answers?.state === state}
              onChange={() => set({ state, standard: state === 'corrected' ? 'sae-j1349' : null, factor: null })}
            />
            {words}
          </label>
        ))}
        {shape.proposed && answers && (
          <span className="text-ok">
            {shape.proposed === 'files' ? 'Proposed: the files say so.' : 'As you said the last time.'}
          </span>
        )}
      </fieldset>
      {stated.length > 0 && <Stated states={stated} />}
      {(answers?.state === 'corrected' || answers?.state === 'scaled') && (
        <div className="grid max-w-[560px] grid-cols-2 gap-3">
          {answers.state === 'corrected' && (
            <Field label="By which standard">
              <select
                className="input"
                value={answers.standard ?? ''}
                onChange={(e) => set({ standard: e.target.value })}
              >
                {(['sae-j1349', 'sae-j607', 'iso-1585-si', 'din-70020'] as const).map((id) => (
                  <option key={id} value={id}>
                    {CORRECTION_NAMES[id]}
                  </option>
                ))}
              </select>
            </Field>
          )}
          <Field
            label="Printed factor"
            hint={
              answers.state === 'scaled'
                ? 'It is divided out.'
                : example === null
                  ? 'Empty: from the weather of each pull, which is not known yet.'
                  : `Empty: from the weather of each pull, ${example.toFixed(4)} for the first.`
            }
          >
            <input
              className="input"
              inputMode="decimal"
              defaultValue={answers.factor ?? ''}
              onChange={(e) => set({ factor: factor(e.target.value) })}
            />
          </Field>
        </div>
      )}
      {answers?.state === 'unknown' && (
        <p className="text-wait">Compared as they are, and only with other unknown ones.</p>
      )}
      {overSpeed && (
        <Field label="Engine speed over road speed, rpm per km/h" hint="These pulls are over road speed.">
          <input
            className="input max-w-[180px]"
            inputMode="decimal"
            defaultValue={answers?.rpmPerKmH ?? ''}
            onBlur={(e) => set({ rpmPerKmH: factor(e.target.value) })}
          />
        </Field>
      )}
      <details open={open}>
        <summary className="text-ink-2 cursor-pointer">What the columns mean</summary>
        <div className="mt-2">
          <ColumnTable files={files} columns={shape.columns} onColumns={onColumns} />
        </div>
      </details>
    </section>
  );
}

/** What the files print of their correction, beside what their weather gives. */
function Stated({ states }: { states: readonly NonNullable<Laid['state']>[] }) {
  const corrected = states.filter((s) => s.kind === 'corrected');
  if (corrected.length === 0) return <p className="text-ink-2">The files say: “{states[0]!.words}”.</p>;
  const first = corrected[0]!;
  const name =
    first.standard && isCorrectionId(first.standard)
      ? CORRECTION_NAMES[first.standard]
      : 'a standard that is not named';
  const off = corrected
    .filter((s) => s.factor !== null && s.computed !== null)
    .map((s) => Math.abs(s.factor! - s.computed!));
  return (
    <p className="text-ink-2">
      The files say: {name}. {first.factor !== null && <>Printed {first.factor.toFixed(3)}</>}
      {first.factor !== null && first.computed !== null && ', '}
      {first.computed !== null && <>computed from their weather {first.computed.toFixed(3)}</>}
      {off.length > 0 && Math.max(...off) > 0.01 && (
        <b className="text-wait">
          {' '}
          They differ by up to {(100 * Math.max(...off)).toFixed(1)} %: is it another standard, or other weather?
        </b>
      )}
    </p>
  );
}
