import {
  COMPLAINTS,
  searchStanding,
  suspectLabel,
  type Complaint,
  type FaultSearch,
  type Job,
  type Judgement,
  type SuspectRecord,
} from '@prandel/core';
import { clock, COMPLAINT_NAMES, searchStandingWords, shown } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ask, type StoredJob } from '../../api/client.ts';
import { useUnits } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';
import { useSearches } from './useSearches.ts';

const RESULTS = [
  ['fine', 'Fine'],
  ['found', 'That is it'],
  ['cured', 'Cured'],
] as const;

/** The search for what is wrong with the car: what to look at next, what was looked at, and whether the car reads right again. */
export function SearchCard({ stored, judgement }: { stored: StoredJob; judgement: Judgement | null }) {
  const { job, rowId, version } = stored;
  const { searches, open, look, close, wrong } = useSearches(rowId);
  const baseline = useQuery({
    queryKey: ['job', rowId, 'baseline', version],
    queryFn: () => ask('get', '/api/jobs/{id}/baseline', { params: { path: { id: rowId } } }),
    enabled: Boolean(job.day?.modelCard.label) && job.pulls.length > 0,
  });
  const range = baseline.data?.range ?? null;
  const last = lastPeak(job, judgement);
  const inside = range && last ? last.peakW >= range.lowW && last.peakW <= range.highW : null;
  const running = searches.find((s) => s.search.closedAt === null);
  return (
    <section className="sheet card grid gap-2" aria-label="Fault finding">
      <h3>What is wrong with it?</h3>
      {wrong && <Notice kind="bad">{wrong.message}</Notice>}
      {searches.map(({ search, seen }) => (
        <Search
          key={search.openedAt}
          job={job}
          search={search}
          seen={seen}
          inside={inside}
          busy={look.isPending || close.isPending}
          lastPull={last}
          onLook={(suspect, result, pull) => look.mutate({ suspect, result, minutes: null, pull })}
          onClose={() => close.mutate()}
        />
      ))}
      {running && last && range && <Range last={last} range={range} inside={inside === true} />}
      {!running && (
        <For role="technician">
          <OpenSearch busy={open.isPending} onOpen={(body) => open.mutate(body)} first={searches.length === 0} />
        </For>
      )}
    </section>
  );
}

interface LastPull {
  readonly id: string;
  readonly peakW: number;
}

/** The last pull with a peak that was reached, set aside or not. */
function lastPeak(job: Job, judgement: Judgement | null): LastPull | null {
  const own = judgement?.pulls.filter((p) => p.peak !== null).toSorted((a, b) => a.hours - b.hours) ?? [];
  const last = own.at(-1);
  return last && job.pulls.some((p) => p.id === last.id) ? { id: last.id, peakW: last.peak!.value } : null;
}

function Range({ last, range, inside }: { last: LastPull; range: { lowW: number; highW: number }; inside: boolean }) {
  const { power } = useUnits();
  return (
    <p className={inside ? '' : 'text-act'}>
      Pull {last.id} peaked at{' '}
      <b>
        {shown(last.peakW, power, 1)} {power}
      </b>
      , {inside ? 'inside' : 'outside'} the model’s {shown(range.lowW, power, 1)} to {shown(range.highW, power, 1)}{' '}
      {power}.
    </p>
  );
}

function Search({
  job,
  search,
  seen,
  inside,
  busy,
  lastPull,
  onLook,
  onClose,
}: {
  job: Job;
  search: FaultSearch;
  seen: readonly SuspectRecord[];
  inside: boolean | null;
  busy: boolean;
  lastPull: LastPull | null;
  onLook: (suspect: string, result: 'fine' | 'found' | 'cured', pull: string | null) => void;
  onClose: () => void;
}) {
  const [byPull, setByPull] = useState(false);
  const standing = searchStanding(job.vehicle, search, seen, inside);
  const running = search.closedAt === null;
  const known = (key: string) => seen.find((r) => r.suspect === key);
  const culprit = search.looks.find((l) => l.result === 'found');
  const shownLeft = running ? standing.left : [];
  return (
    <div className="grid gap-1.5">
      <p>
        <b>{COMPLAINT_NAMES[search.complaint]}</b>
        {search.words && <span>: {search.words}</span>}
      </p>
      <p className={standing.state === 'budget' ? 'text-wait' : 'text-ink-2'}>
        {searchStandingWords(standing, search.budgetMinutes)}
      </p>
      {search.looks.length > 0 && (
        <ul className="text-[12.5px]" aria-label="Looked at">
          {search.looks.map((l) => (
            <li key={l.suspect}>
              {suspectLabel(l.suspect)}: <b>{RESULTS.find(([key]) => key === l.result)![1].toLowerCase()}</b>
              <span className="text-ink-3">
                , {l.who} {clock(l.at, job.timeZone)}
                {l.pull && `, by pull ${l.pull}`}
              </span>
            </li>
          ))}
        </ul>
      )}
      {running && culprit && (
        <For role="technician">
          <button
            className="btn justify-self-start"
            disabled={busy}
            onClick={() => onLook(culprit.suspect, 'cured', lastPull && byPull ? lastPull.id : null)}
          >
            It is cured
          </button>
        </For>
      )}
      {shownLeft.length > 0 && (
        <ol className="divide-rule divide-y text-[12.5px]" aria-label="Suspects">
          {shownLeft.map((s, i) => {
            const record = known(s.key);
            const own = record?.own.cures ?? 0;
            return (
              <li key={s.key} className="flex flex-wrap items-center gap-x-2 gap-y-1 py-1">
                <span className={`min-w-[150px] flex-1 ${i === 0 && standing.next ? 'font-[650]' : ''}`}>
                  {s.label}
                  <span className="text-ink-3 font-[450]">
                    {' '}
                    {s.minutes} min, {Math.round(100 * s.likelihood)} %{own > 0 && `, cured ${own} of this model`}
                  </span>
                </span>
                <For role="technician">
                  <span className="flex flex-none gap-2">
                    {RESULTS.slice(0, 2).map(([result, words]) => (
                      <button
                        key={result}
                        className="btn sm"
                        disabled={busy}
                        aria-label={`${s.label}: ${words.toLowerCase()}`}
                        onClick={() => onLook(s.key, result, byPull && lastPull ? lastPull.id : null)}
                      >
                        {words}
                      </button>
                    ))}
                  </span>
                </For>
              </li>
            );
          })}
        </ol>
      )}
      {running && (
        <For role="technician">
          <div className="flex flex-wrap items-center gap-3">
            {lastPull && (
              <label className="flex items-center gap-1.5 text-[12px]">
                <input type="checkbox" checked={byPull} onChange={(e) => setByPull(e.target.checked)} />
                shown by pull {lastPull.id}, not by looking
              </label>
            )}
            <button className="btn sm" disabled={busy} onClick={onClose}>
              Give it up
            </button>
          </div>
        </For>
      )}
    </div>
  );
}

interface Form {
  complaint: Complaint;
  words: string;
  budget: string;
}

function OpenSearch({
  busy,
  first,
  onOpen,
}: {
  busy: boolean;
  first: boolean;
  onOpen: (body: { complaint: Complaint; words: string; budgetMinutes: number }) => void;
}) {
  const { register, handleSubmit, formState, watch } = useForm<Form>({
    defaultValues: { complaint: 'reads-low', words: '', budget: '60' },
  });
  const { errors } = formState;
  return (
    <details>
      <summary className="text-[12.5px]">{first ? 'Open a search' : 'Open another search'}</summary>
      <form
        className="mt-2 flex flex-wrap items-start gap-2"
        noValidate
        onSubmit={(e) =>
          void handleSubmit(({ complaint, words, budget }) =>
            onOpen({ complaint, words: words.trim(), budgetMinutes: Number(budget) }),
          )(e)
        }
      >
        <Field label="Complaint">
          <select className="input" {...register('complaint')}>
            {COMPLAINTS.map((key) => (
              <option key={key} value={key}>
                {COMPLAINT_NAMES[key]}
              </option>
            ))}
          </select>
        </Field>
        <div className="min-w-[140px] grow">
          <Field label="In words" error={errors.words?.message}>
            <Input
              maxLength={300}
              {...register('words', {
                validate: (v) => watch('complaint') !== 'other' || v.trim() !== '' || 'Say in words what is wrong.',
              })}
            />
          </Field>
        </div>
        <div className="w-[110px]">
          <Field label="Budget, min" error={errors.budget?.message}>
            <Input
              inputMode="numeric"
              {...register('budget', { validate: (v) => (Number(v) >= 5 && Number(v) <= 1440) || '5 to 1440.' })}
            />
          </Field>
        </div>
        <button className="btn mt-[21px]" disabled={busy}>
          Start looking
        </button>
      </form>
    </details>
  );
}
