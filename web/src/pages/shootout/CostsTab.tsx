import { costGapWords, costSourceWords, money as moneyWords, plain } from '@prandel/presentation';
import {
  costAgainst,
  costOfStep,
  NO_COSTS,
  OUTCOME_FIELDS,
  type Job,
  type OutcomeField,
  type RecordedPart,
  type Setup,
} from '@prandel/core';
import { Plus } from 'lucide-react';
import { useState } from 'react';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import { Changeable, For } from '../../parts/May.tsx';
import { Badge } from '../../parts/marks.tsx';
import { AddSetup } from './AddSetup.tsx';
import { OUTCOME_LABELS } from './outcomeLabels.ts';
import { TakeAway } from '../../parts/TakeAway.tsx';

/** A field of a setup that is typed here, as text until it is kept. */
type Cells = Readonly<Record<string, string>>;
const COST_COLUMNS = [
  ['partCost', 'Parts'],
  ['adapters', 'Adapters'],
  ['consumables', 'Consumables'],
  ['tune', 'Tune'],
  ['labourHours', 'Hours'],
] as const;
type CostKey = (typeof COST_COLUMNS)[number][0];

function asTyped(s: Setup, key: CostKey): string {
  const { adapters, consumables, tune } = s.costs ?? NO_COSTS;
  const value = { partCost: s.partCost, adapters, consumables, tune, labourHours: s.labourHours }[key];
  return value === null ? '' : String(value);
}

/** What each setup costs against its parent, and what a person notes of it besides its power. */
export function CostsTab({
  stored: { rowId, version, job: saved },
  job,
  recorded,
}: {
  stored: StoredJob;
  job: Job;
  recorded: readonly RecordedPart[];
}) {
  const [cells, setCells] = useState<Readonly<Record<string, Cells>>>({});
  const [adding, setAdding] = useState(false);
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: edit }),
  );
  const setups = saved.setups.filter((s) => s.returnsTo === null && s.id !== saved.question.baselineSetup);
  const type = (id: string, key: string, value: string) =>
    setCells((now) => ({ ...now, [id]: { ...now[id], [key]: value } }));
  const typed = (id: string, key: string) => cells[id]?.[key];
  const number = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.')));
  const wrong = setups.flatMap((s) =>
    COST_COLUMNS.flatMap(([key, words]) => {
      const text = typed(s.id, key);
      const value = text === undefined ? null : number(text);
      return value !== null && !(value >= 0) ? [`${words} of ${s.id}`] : [];
    }),
  );
  const difficulty = setups.filter((s) => {
    const text = typed(s.id, 'difficulty')?.trim();
    return text !== undefined && text !== '' && !/^[1-5]$/.test(text);
  });
  const edits = setups.flatMap((s): Schemas['SetupEdit'][] => {
    const own = cells[s.id];
    if (!own) return [];
    const differs = (key: CostKey) => own[key] !== undefined && own[key] !== asTyped(s, key);
    const extras = (['adapters', 'consumables', 'tune'] as const).some(differs);
    const read = (key: CostKey) => number(own[key] ?? asTyped(s, key));
    const outcomes = Object.fromEntries(
      OUTCOME_FIELDS.flatMap((f: OutcomeField) =>
        own[f] !== undefined && own[f] !== (s.outcomes?.[f] ?? '') ? [[f, own[f].trim()]] : [],
      ),
    );
    const edit = {
      ...(differs('partCost') ? { partCost: read('partCost') } : {}),
      ...(differs('labourHours') ? { labourHours: read('labourHours') } : {}),
      ...(differs('partCost') && s.currency === null && job.money?.currency ? { currency: job.money.currency } : {}),
      ...(extras
        ? { costs: { adapters: read('adapters'), consumables: read('consumables'), tune: read('tune') } }
        : {}),
      ...(Object.keys(outcomes).length > 0 ? { outcomes } : {}),
    };
    return Object.keys(edit).length > 0 ? [{ id: s.id, ...edit }] : [];
  });
  const bad = wrong.length > 0 || difficulty.length > 0;
  const rows = setups.map((s) => {
    const [step, all] = [costOfStep(job, s.id, recorded), costAgainst(job, s.id, job.question.baselineSetup, recorded)];
    return {
      ...{ setup: s.id, part: s.label, 'made from': s.parentId ?? '' },
      ...{ parts: step?.parts ?? '', adapters: step?.adapters ?? '', consumables: step?.consumables ?? '' },
      ...{ tune: step?.tune ?? '', hours: step?.hours ?? '', 'hours from': step?.hoursFrom ?? '' },
      ...{
        labour: step?.labour ?? '',
        step: step?.total ?? '',
        'all in': all?.total ?? '',
        currency: all?.currency ?? '',
      },
    };
  });
  return (
    <div className="grid gap-2.5">
      {adding && <AddSetup rowId={rowId} job={job} onDone={() => setAdding(false)} />}
      <Changeable className="grid gap-2.5">
        <section className="sheet card" aria-label="Costs">
          <div className="flex flex-wrap items-center gap-2">
            <h3 className="grow">What each costs, against what it is made from</h3>
            <TakeAway name={`${job.id} costs`} rows={rows} />
            <For role="technician">
              {!adding && (
                <button type="button" className="btn sm" onClick={() => setAdding(true)}>
                  <Plus size={14} aria-hidden /> Add a setup
                </button>
              )}
              {edits.length > 0 && (
                <button type="button" className="btn sm" onClick={() => setCells({})}>
                  As it was
                </button>
              )}
              <button
                type="button"
                className="btn sm pri"
                disabled={edits.length === 0 || bad || change.isPending}
                onClick={() => change.mutate({ version, setups: edits }, { onSuccess: () => setCells({}) })}
              >
                Save
              </button>
            </For>
          </div>
          {change.error && <Notice kind="bad">{change.error.message}</Notice>}
          {wrong.length > 0 && (
            <Notice kind="bad">{wrong.join(', ')}: type a number such as 42.50, or leave it empty.</Notice>
          )}
          {difficulty.length > 0 && (
            <Notice kind="bad">Difficulty of {difficulty.map((s) => s.id).join(', ')}: a number from 1 to 5.</Notice>
          )}
          <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Table of costs">
            <table className="table mt-1">
              <thead>
                <tr className="text-ink-2 text-left text-[11.5px]">
                  <th className="font-[450]">Setup</th>
                  <th className="font-[450]">Made from</th>
                  {COST_COLUMNS.map(([key, words]) => (
                    <th key={key} className="font-[450]">
                      {words}
                    </th>
                  ))}
                  <th className="r font-[450]">Labour</th>
                  <th className="r font-[450]">This step</th>
                  <th className="r font-[450]">All in, against {job.question.baselineSetup}</th>
                </tr>
              </thead>
              <tbody>
                {setups.map((s) => {
                  const step = costOfStep(job, s.id, recorded)!;
                  const all = costAgainst(job, s.id, job.question.baselineSetup, recorded);
                  return (
                    <tr key={s.id}>
                      <td className="min-w-[170px]">
                        <Badge id={s.id} setups={job.setups} /> <span className="font-[560]">{s.label}</span>
                      </td>
                      <td>{s.parentId ? <Badge id={s.parentId} setups={job.setups} /> : '–'}</td>
                      {COST_COLUMNS.map(([key, words]) => {
                        const elsewhere =
                          key === 'partCost' && step.partsFrom !== 'typed' && step.parts !== null
                            ? `${plain(step.parts, 0)} ${costSourceWords(step.partsFrom)}`
                            : key === 'labourHours' && step.hoursFrom !== 'typed' && step.hours !== null
                              ? `${plain(step.hours, 2)} ${costSourceWords(step.hoursFrom)}`
                              : '';
                        return (
                          <td key={key}>
                            <input
                              className="input !min-h-[28px] w-[78px] !px-1.5 !py-0.5 text-right text-[12.5px]"
                              inputMode="decimal"
                              aria-label={`${words} of ${s.id}`}
                              value={typed(s.id, key) ?? asTyped(s, key)}
                              onChange={(e) => type(s.id, key, e.target.value)}
                            />
                            {elsewhere && <span className="text-ink-2 block text-[11px]">counts: {elsewhere}</span>}
                          </td>
                        );
                      })}
                      <td className="r whitespace-nowrap">{moneyWords(step.labour, job.money?.currency ?? null)}</td>
                      <td className="r whitespace-nowrap">
                        {step.total === null ? (
                          <span className="text-ink-2 block max-w-[120px] text-[11.5px] leading-tight whitespace-normal">
                            {costGapWords(step)}
                          </span>
                        ) : (
                          moneyWords(step.total, step.currency)
                        )}
                      </td>
                      <td className="r whitespace-nowrap">
                        <b className="num text-[15px]">{moneyWords(all?.total ?? null, all?.currency ?? null)}</b>
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </div>
          <p className="text-ink-3 mt-1.5 text-[11.5px]">
            Hours come from the fitting clock, else from the part’s record, else from here. Costs do not enter the
            verdict.
          </p>
        </section>
        <section className="sheet card" aria-label="Beside the power">
          <h3>Beside the power</h3>
          <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Table of what else the setups do">
            <table className="table mt-1">
              <thead>
                <tr className="text-ink-2 text-left text-[11.5px]">
                  <th className="font-[450]">Setup</th>
                  {OUTCOME_FIELDS.map((f) => (
                    <th key={f} className="font-[450]">
                      {OUTCOME_LABELS[f]}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {setups.map((s) => (
                  <tr key={s.id}>
                    <td>
                      <Badge id={s.id} setups={job.setups} />
                    </td>
                    {OUTCOME_FIELDS.map((f) => (
                      <td key={f}>
                        <input
                          className={`input !min-h-[28px] !px-1.5 !py-0.5 text-[12.5px] ${f === 'difficulty' ? 'w-[46px]' : 'w-full min-w-[120px]'}`}
                          aria-label={`${OUTCOME_LABELS[f]} of ${s.id}`}
                          maxLength={200}
                          value={typed(s.id, f) ?? s.outcomes?.[f] ?? ''}
                          onChange={(e) => type(s.id, f, e.target.value)}
                        />
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </section>
      </Changeable>
    </div>
  );
}
