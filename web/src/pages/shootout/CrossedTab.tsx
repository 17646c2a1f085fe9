import {
  crossedSvg,
  differenceInterval,
  interactionWords,
  onTopWords,
  withUnit,
  type ShownUnits,
} from '@prandel/presentation';
import { changesAgainst, setupWithBoth, type Crossed, type Difference, type Job } from '@prandel/core';
import { useMemo, useState } from 'react';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Field, Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';
import { Badge } from '../../parts/marks.tsx';
import { TakeAway } from '../../parts/TakeAway.tsx';

/** Two factors crossed: each alone, both together, and whether they add up. */
export function CrossedTab({
  stored: { rowId },
  job,
  crossed,
  units,
}: {
  stored: StoredJob;
  job: Job;
  crossed: readonly Crossed[];
  units: ShownUnits;
}) {
  return (
    <div className="grid gap-2.5">
      {crossed.map((c) => (
        <Table key={`${c.alone.join()}${c.both}`} job={job} crossed={c} units={units} />
      ))}
      {crossed.length === 0 && (
        <div className="sheet p-6 text-[14px]">
          Nothing is crossed yet: two changes, each run alone and both together, tell whether one changes what the other
          brings. A load setting, the hood or the fuel can be the second of them.
        </div>
      )}
      <For role="technician">
        <MakeCrossed rowId={rowId} job={job} />
      </For>
    </div>
  );
}

function Table({ job, crossed, units }: { job: Job; crossed: Crossed; units: ShownUnits }) {
  const { alone, both, gains, interaction } = crossed;
  const svg = useMemo(
    () => crossedSvg(crossed, job.setups, units, { width: 560, height: 270, fontSize: 11 }),
    [crossed, job.setups, units],
  );
  const label = (id: string) => job.setups.find((s) => s.id === id)?.label ?? id;
  const cell = (d: Difference | null) => {
    if (!d) return '–';
    const read = differenceInterval(d, units);
    return (
      <>
        <b className="num text-[19px]">{withUnit(read.estimate, read.unit)}</b>
        <span className="text-ink-2 block text-[12px]">
          {read.low} to {read.high}
        </span>
      </>
    );
  };
  const rows = [
    ...[alone[0], alone[1], both].map((setup, i) => ({ setup, kind: 'against the baseline', ...gains[i]! })),
    { setup: both, kind: 'interaction', ...interaction },
  ].map(({ setup, kind, estimate, low, high, unit }) => ({ setup, kind, estimate, low, high, unit }));
  return (
    <section
      className="sheet card grid gap-3 lg:grid-cols-[minmax(0,1fr)_580px]"
      aria-label={`${alone.join(' and ')} crossed`}
    >
      <div className="grid content-start gap-2">
        <div className="flex flex-wrap items-center gap-2">
          <h3 className="grow">
            <Badge id={alone[0]} setups={job.setups} /> and <Badge id={alone[1]} setups={job.setups} />, alone and
            together <Badge id={both} setups={job.setups} />
          </h3>
          <TakeAway name={`${job.id} crossed ${alone.join('')}`} rows={rows} svg={svg} />
        </div>
        <p className="text-[17px] leading-snug font-[620]" data-testid="interaction">
          {interactionWords(crossed, units)}
        </p>
        <p className="text-[13.5px]">{onTopWords(crossed, 1, units)}</p>
        <p className="text-[13.5px]">{onTopWords(crossed, 0, units)}</p>
        <table className="table">
          <thead>
            <tr className="text-ink-2 text-left text-[11.5px]">
              <th>
                <span className="sr-only">Factor</span>
              </th>
              <th className="font-[450]">without {label(alone[1])}</th>
              <th className="font-[450]">with {label(alone[1])}</th>
            </tr>
          </thead>
          <tbody>
            <tr>
              <th className="text-left font-[450]">without {label(alone[0])}</th>
              <td className="text-ink-2">the baseline</td>
              <td>{cell(gains[1])}</td>
            </tr>
            <tr>
              <th className="text-left font-[450]">with {label(alone[0])}</th>
              <td>{cell(gains[0])}</td>
              <td>{cell(gains[2])}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <div dangerouslySetInnerHTML={{ __html: svg }} />
    </section>
  );
}

/** Makes the setup with both changes of two others. */
function MakeCrossed({ rowId, job }: { rowId: string; job: Job }) {
  const { baselineSetup, candidateSetups } = job.question;
  const able = candidateSetups.filter((id) => changesAgainst(job.setups, id, baselineSetup).length > 0);
  const [first, setFirst] = useState(able[0] ?? '');
  const [second, setSecond] = useState(able[1] ?? '');
  const add = useJobChange<Schemas['AddedSetup']>(rowId, (body) =>
    ask('post', '/api/jobs/{id}/setups', { params: { path: { id: rowId } }, body }),
  );
  const added = add.data as { readonly id: string } | undefined;
  if (able.length < 2)
    return (
      <section className="sheet card" aria-label="Cross two factors">
        <h3>Cross two factors</h3>
        <p className="text-ink-2 mt-1">
          Two setups with changes of their own are needed first. Say what was changed for each on “Setups and pulls”, or
          add them under Costs.
        </p>
      </section>
    );
  const both = first === second ? null : setupWithBoth(job.setups, baselineSetup, [first, second], 'new');
  const choose = (value: string, set: (id: string) => void, label: string) => (
    <Field label={label}>
      <select className="input" value={value} onChange={(e) => set(e.target.value)}>
        {able.map((id) => (
          <option key={id} value={id}>
            {id} · {job.setups.find((s) => s.id === id)?.label}
          </option>
        ))}
      </select>
    </Field>
  );
  return (
    <section className="sheet card grid gap-2" aria-label="Cross two factors">
      <h3>Cross two factors</h3>
      <div className="grid items-end gap-2.5 sm:grid-cols-[minmax(0,1fr)_minmax(0,1fr)_auto]">
        {choose(first, setFirst, 'First')}
        {choose(second, setSecond, 'Second')}
        <button
          type="button"
          className="btn pri"
          disabled={!both || add.isPending}
          onClick={() =>
            both &&
            add.mutate({
              parentId: baselineSetup,
              label: both.label.slice(0, 120),
              changes: [...both.changes],
              declares: [...both.declares],
              state: { ...both.state },
              closedCourseOnly: both.closedCourseOnly,
            })
          }
        >
          Add “{both ? both.label : 'both'}”
        </button>
      </div>
      {first === second && <p className="text-ink-2">Choose two different ones.</p>}
      {add.error && <Notice kind="bad">{add.error.message}</Notice>}
      {added && (
        <p className="font-[560]">
          Setup {added.id} is added and planned: run it like the others, with the baseline between them.
        </p>
      )}
    </section>
  );
}
