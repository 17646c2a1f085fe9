import {
  forestAverageSvg,
  forestNextSvg,
  forestRowSvg,
  forestScale,
  measureWords,
  promiseWords,
  shelfUnit,
  shortDay,
  signed,
  spreadWords,
  withUnit,
} from '@prandel/presentation';
import type { ShelfGroup } from '@prandel/core';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { ask, queries, type PartShelf } from '../../api/client.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';
import { RecordField, type RecordRow } from '../../parts/RecordField.tsx';
import { VerdictTag } from '../../parts/marks.tsx';
import { StripHead } from './StripHead.tsx';
import { ShelfTabs } from './ShelfTabs.tsx';

const STRIP = 420;
const ROW = 28;
type Measure = PartShelf['measures'][number];
type Row = Measure['rows'][number];

/** One part: every job that ran it, what they say together, and what the next car may see. */
export function PartPage() {
  const { id = '' } = useParams();
  const shelf = useQuery({
    queryKey: ['shelf', 'part', id],
    queryFn: () => ask('get', '/api/shelf/{id}', { params: { path: { id } } }),
  });
  if (shelf.error)
    return (
      <div className="p-6">
        <Notice kind="bad">{shelf.error.message}</Notice>
      </div>
    );
  if (!shelf.data) return <div className="progress" role="progressbar" aria-label="Loading the part" />;
  const { part, measures, apart } = shelf.data;
  const facts = [
    part.kind,
    part.number,
    part.price !== null && withUnit(String(part.price), part.currency),
    part.hours !== null && `${part.hours} h to fit`,
    part.closedCourseOnly && 'closed course only',
  ].filter(Boolean);
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <ShelfTabs />
      <div>
        <h1>{part.name}</h1>
        <p className="text-ink-2 mt-0.5">
          {facts.join(' · ')}
          {part.mergedNames.length > 0 && ` · also called ${part.mergedNames.join(', ')}`}
        </p>
      </div>
      {part.mergedInto && (
        <Notice kind="plain">
          This part was found to be another one; its jobs count{' '}
          <Link className="underline" to={`/shelf/${part.mergedInto}`}>
            there
          </Link>
          .
        </Notice>
      )}
      {measures.length === 0 && !part.mergedInto && (
        <div className="sheet p-8 text-center text-[15px]">
          No job has tried it by itself yet. What it does on each car, on average and on the next one will stand here.
        </div>
      )}
      {measures.map((of) => (
        <MeasureShelf
          key={of.measure}
          of={of}
          promised={of.measure === 'windowMeanPower' ? part.promisedPercent : null}
        />
      ))}
      {apart.length > 0 && <Apart rows={apart} />}
      {!part.mergedInto && <Merge id={id} name={part.name} />}
    </div>
  );
}

function MeasureShelf({ of: { measure, answer, rows }, promised }: { of: Measure; promised: number | null }) {
  const { all } = answer;
  const unit = shelfUnit(measure);
  const scale = forestScale(
    rows.map((r) => r.range),
    [all?.next?.low, all?.next?.high, all?.average?.low, all?.average?.high],
    STRIP,
  );
  const heaviest = Math.max(...rows.map((r) => r.weight));
  return (
    <section className="sheet card grid gap-2" aria-label={measureWords(measure).name}>
      <div className="flex flex-wrap items-baseline gap-3">
        <h2>{measureWords(measure).name}</h2>
        <span className="text-ink-2">each job against the setup before, {unit}</span>
      </div>
      {all?.next && (
        <p className="text-[17px]">
          The next car may see <b>{withUnit(`${signed(all.next.low)} to ${signed(all.next.high)}`, unit)}</b>.{' '}
          <span className="text-ink-2 text-[13px]">{spreadWords(all, measure)}</span>
        </p>
      )}
      {all && !all.next && (
        <p className="text-ink-2">
          {all.cars === 1 ? 'One car is' : 'Two cars are'} too few for an average with an interval; from three cars on
          it is said what the next one may see.
        </p>
      )}
      {promised !== null && all && <p>{promiseWords(promised, all)}</p>}
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Jobs that ran it">
        <table className="table">
          <thead>
            <tr>
              <th>Found</th>
              <th>Car</th>
              <th>Job</th>
              <th className="r">{unit}</th>
              <StripHead scale={scale} />
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <JobRow
                key={`${row.job} ${row.setup}`}
                row={row}
                strip={forestRowSvg(scale, row, heaviest, promised, ROW)}
              />
            ))}
            {all?.average && (
              <tr className="font-[620]">
                <td colSpan={3}>Average of {all.cars} cars</td>
                <td className="r whitespace-nowrap">{rangeWords(all.average)}</td>
                <td dangerouslySetInnerHTML={{ __html: forestAverageSvg(scale, all.average, promised, ROW) }} />
              </tr>
            )}
            {all?.next && (
              <tr className="font-[620]">
                <td colSpan={3}>The next car</td>
                <td className="r whitespace-nowrap">
                  {signed(all.next.low)} to {signed(all.next.high)}
                </td>
                <td dangerouslySetInnerHTML={{ __html: forestNextSvg(scale, all.next, promised, ROW) }} />
              </tr>
            )}
          </tbody>
        </table>
      </div>
      {answer.models.length > 1 && (
        <Groups title="By model" groups={answer.models.map((m) => ({ name: m.model, ...m }))} unit={unit} />
      )}
      {answer.factors.map(({ factor, sides }) => (
        <Groups
          key={factor}
          title={`By ${factor}: exploratory, nobody asked before`}
          groups={sides.map((s) => ({ name: s.value, ...s }))}
          unit={unit}
        />
      ))}
    </section>
  );
}

function JobRow({ row, strip }: { row: Row; strip: string }) {
  return (
    <tr className={row.weight > 0 ? '' : 'text-ink-3'}>
      <td className="whitespace-nowrap">
        <VerdictTag verdict={row.verdict} measure={row.measure} />
      </td>
      <td>
        {row.car}
        {row.epoch && <span className="text-ink-3"> {row.bay}</span>}
      </td>
      <td className="whitespace-nowrap">
        <Link className="underline" to={`/jobs/${row.job}`}>
          {row.number}
        </Link>
        <span className="text-ink-2">
          {row.at && `, ${shortDay(row.at, null)} ${new Date(row.at).getFullYear()}`}; {row.setup} against {row.against}
        </span>
      </td>
      <td className="r whitespace-nowrap">
        {row.range ? rangeWords(row.range) : '–'}
        {row.weight === 0 && row.range && <span> left out</span>}
      </td>
      <td dangerouslySetInnerHTML={{ __html: strip }} />
    </tr>
  );
}

const rangeWords = ({ estimate, low, high }: { estimate: number; low: number; high: number }) =>
  `${signed(estimate)}, ${signed(low)} to ${signed(high)}`;

function Groups({
  title,
  groups,
  unit,
}: {
  title: string;
  groups: readonly (ShelfGroup & { name: string })[];
  unit: string;
}) {
  return (
    <div>
      <h3>{title}</h3>
      <ul className="mt-1 grid gap-x-6 gap-y-0.5 sm:grid-cols-2">
        {groups.map((g) => (
          <li key={g.name} className="flex gap-2">
            <span className="grow">{g.name}</span>
            <span className="text-ink-2">
              {g.cars} {g.cars === 1 ? 'car' : 'cars'}
            </span>
            <span className="num w-[150px] text-right text-[13.5px]">
              {g.average ? rangeWords(g.average) : signed(g.estimate)} {unit}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Jobs whose step changed more than this part: their gain cannot be divided. */
function Apart({ rows }: { rows: readonly Row[] }) {
  return (
    <section className="sheet card" aria-label="Together with other changes">
      <h2>Together with other changes</h2>
      <p className="text-ink-2">One gain for all of them; it cannot be divided, and counts for none.</p>
      <ul className="mt-1 grid gap-1">
        {rows.map((row) => (
          <li key={`${row.job} ${row.setup} ${row.measure}`}>
            <VerdictTag verdict={row.verdict} measure={row.measure} />{' '}
            <Link className="underline" to={`/jobs/${row.job}`}>
              {row.number}
            </Link>{' '}
            {row.car}: {row.changes}
            {row.range && (
              <span className="text-ink-2">
                ; {rangeWords(row.range)} {shelfUnit(row.measure)}
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Makes one part of two that are the same. */
function Merge({ id, name }: { id: string; name: string }) {
  const [text, setText] = useState('');
  const [other, setOther] = useState<RecordRow | null>(null);
  const merge = useMutation({
    mutationFn: (into: string) => ask('post', '/api/shelf/{id}/merge', { params: { path: { id } }, body: { into } }),
    onSettled: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ['shelf'] }),
        queries.invalidateQueries({ queryKey: ['records', 'part'] }),
      ]),
  });
  return (
    <For role="technician">
      <details className="sheet card">
        <summary>This is the same part as another one</summary>
        <div className="mt-2 flex flex-wrap items-end gap-3">
          <div className="w-[300px]">
            <RecordField kind="part" label="The part it is" value={text} onText={setText} onRecord={setOther} />
          </div>
          {other && other.id !== id && (
            <AskInPlace
              label={`Count the jobs of ${name} for ${other.label}`}
              question={`All jobs of ${name} then count for ${other.label}.`}
              yes="Make one of them"
              busy={merge.isPending}
              onYes={() => merge.mutate(other.id)}
            />
          )}
        </div>
        {merge.error && <Notice kind="bad">{merge.error.message}</Notice>}
      </details>
    </For>
  );
}
