import { channelWords, kindOf, pullsInOrder, type Job } from '@prandel/core';
import { channelName, laidByWords, plain, residualWords } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { ask, Refusal, type Schemas } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { ColumnTable, type Columns } from './ColumnTable.tsx';

type Answer = Schemas['LoggerAnswer'];

/** A logger's record: what its columns mean, where it lies beside the pulls, and what it would add to them. */
export function LoggerCard({
  jobId,
  job,
  file,
  columns,
  onColumns,
  onAdded,
}: {
  jobId: string;
  job: Job;
  file: Schemas['StagedFile'];
  columns: Columns;
  onColumns: (columns: Columns) => void;
  onAdded: (added: Schemas['LoggerAdded']) => void;
}) {
  const [byHand, setByHand] = useState<Schemas['ByHandDto'] | null>(null);
  const body = { fileId: file.id!, columns, ...(byHand ? { byHand } : {}) };
  const look = useQuery({
    queryKey: ['logger', jobId, body],
    queryFn: () => ask('post', '/api/jobs/{id}/loggers/preview', { params: { path: { id: jobId } }, body }),
    retry: false,
    staleTime: Infinity,
    placeholderData: (old) => old,
  });
  const add = useJobChange<Schemas['LoggerRequest']>(jobId, async (request) =>
    onAdded(await ask('post', '/api/jobs/{id}/loggers', { params: { path: { id: jobId } }, body: request })),
  );
  const name = (id: string) => {
    const own = job.pulls.find((p) => p.id === id)!;
    const place = pullsInOrder(job.pulls.filter((p) => p.setupId === own.setupId)).findIndex((p) => p.id === id) + 1;
    return `${own.setupId}·${place}`;
  };
  const answer = look.data;
  return (
    <div className="grid gap-3 grid-cols-[minmax(0,1fr)] lg:grid-cols-[minmax(0,1fr)_500px]">
      <ColumnTable files={[file]} columns={columns} onColumns={onColumns} />
      <section className="sheet card grid content-start gap-2" aria-label="How the record lies">
        <h2>How it lies beside the pulls</h2>
        {look.isFetching && <div className="progress" role="progressbar" aria-label="Laying the record" />}
        {look.error && (
          <Notice kind="bad">
            {look.error instanceof Refusal && look.error.problems.length > 0
              ? look.error.problems.slice(0, 6).map((p, i) => (
                  <div key={i}>
                    {p.line ? `Line ${p.line}: ` : ''}
                    {p.message}
                  </div>
                ))
              : look.error.message}
          </Notice>
        )}
        {answer && !look.error && (
          <>
            {answer.why && <Notice>{answer.why.text}</Notice>}
            {answer.laid && <Laid laid={answer.laid} name={name} />}
            <Overlay answer={answer} name={name} />
            {(answer.why ?? byHand) && (
              <PlaceByHand job={job} name={name} record={answer.record} byHand={byHand} onPlace={setByHand} />
            )}
            <p className="text-ink-2 text-[12.5px]">
              {answer.channels.length === 0
                ? 'The record holds nothing that the pulls do not have already.'
                : `It would add ${answer.channels
                    .map(
                      (c) =>
                        `${channelName(c.name)} (${figure(c.low)} to ${figure(c.high)} ${channelWords(c.name).unit})`,
                    )
                    .join(', ')}.`}{' '}
              The file itself is kept unchanged, and its channels can be taken off again.
            </p>
            {add.error && <Notice kind="bad">{add.error.message}</Notice>}
            <div className="flex justify-end">
              <button
                className="btn pri min-h-[38px] px-6"
                disabled={!answer.laid || answer.channels.length === 0 || look.isFetching || add.isPending}
                onClick={() => add.mutate(body)}
              >
                {add.isPending ? 'Adding …' : `Add its channels to ${answer.laid?.pulls.length ?? 0} pulls`}
              </button>
            </div>
          </>
        )}
      </section>
    </div>
  );
}

const figure = (value: number | null) => plain(value, value !== null && Math.abs(value) < 10 ? 2 : 0);

function Laid({ laid, name }: { laid: NonNullable<Answer['laid']>; name: (id: string) => string }) {
  const hand = laid.laidBy === 'hand';
  return (
    <>
      <p className="text-[13.5px]" data-testid="laid">
        {hand ? 'Placed by hand' : `Laid by ${laidByWords(laid.laidBy)}`} on {laid.pulls.length}{' '}
        {laid.pulls.length === 1 ? 'pull' : 'pulls'}: {laid.pulls.map((p) => name(p.id)).join(', ')}.
      </p>
      <dl className="text-ink-2 grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 text-[12.5px] [&_dd]:text-right [&_dd]:text-ink">
        <dt>First pull begins at</dt>
        <dd className="num">{plain(laid.pulls[0]!.atS, 2)} s of its clock</dd>
        {laid.ratePpm !== null && (
          <>
            <dt>Its clock runs</dt>
            <dd className="num">
              {plain(Math.abs(laid.ratePpm), 0)} ppm {laid.ratePpm < 0 ? 'slower' : 'faster'}
            </dd>
          </>
        )}
        {laid.residual !== null && laid.range !== null && (
          <>
            <dt>Left over, root mean square</dt>
            <dd className="num">
              {residualWords(laid.laidBy, laid.residual)}, {plain((100 * laid.residual) / laid.range, 1)} % of the range
            </dd>
          </>
        )}
        {laid.correlation !== null && (
          <>
            <dt>Correlation</dt>
            <dd className="num">{plain(laid.correlation, 4)}</dd>
          </>
        )}
      </dl>
    </>
  );
}

/** Speeds of the pulls as both recorded them, one small panel a pull. */
function Overlay({ answer, name }: { answer: Answer; name: (id: string) => string }) {
  const shown = answer.pictures.slice(0, 12);
  if (shown.length === 0) return null;
  const [w, h] = [116, 62];
  return (
    <figure className="m-0" data-testid="overlay">
      <div className="grid grid-cols-4 gap-1.5">
        {shown.map((p) => {
          const all = [...p.own, ...p.theirs].filter((v) => v !== null);
          const [low, high] = [Math.min(...all), Math.max(...all)];
          const [t0, t1] = [p.timeS[0] ?? 0, p.timeS.at(-1) ?? 1];
          const path = (values: readonly (number | null)[]) => {
            let pen = 'M';
            return values
              .map((v, i) => {
                if (v === null) {
                  pen = 'M';
                  return '';
                }
                const x = 3 + ((p.timeS[i]! - t0) / (t1 - t0 || 1)) * (w - 6);
                const y = h - 4 - ((v - low) / (high - low || 1)) * (h - 20);
                const point = `${pen}${x.toFixed(1)} ${y.toFixed(1)}`;
                pen = 'L';
                return point;
              })
              .join('');
          };
          return (
            <svg
              key={p.pull}
              viewBox={`0 0 ${w} ${h}`}
              role="img"
              aria-label={`Speeds of ${name(p.pull)} in both records`}
            >
              <rect width={w} height={h} fill="var(--well)" />
              <path d={path(p.own)} fill="none" stroke="var(--ink-3)" strokeWidth="3.4" strokeOpacity=".45" />
              <path d={path(p.theirs)} fill="none" stroke="var(--ink)" strokeWidth="1.1" />
              <text x="5" y="12" fontSize="11" fontWeight="620" fill="var(--ink-2)">
                {name(p.pull)}
              </text>
            </svg>
          );
        })}
      </div>
      <figcaption className="text-ink-3 mt-1 text-[11.5px]">
        Wide grey: the pull’s own speed; thin ink: the logger’s.
        {answer.pictures.length > shown.length ? ` The first ${shown.length} of ${answer.pictures.length}.` : ''}
      </figcaption>
    </figure>
  );
}

/** The record on its own time line, and the second at which a pull begins: typed, or taken by a click on the line. */
function PlaceByHand({
  job,
  name,
  record,
  byHand,
  onPlace,
}: {
  job: Job;
  name: (id: string) => string;
  record: Answer['record'];
  byHand: Schemas['ByHandDto'] | null;
  onPlace: (byHand: Schemas['ByHandDto']) => void;
}) {
  const pulls = pullsInOrder(job.pulls).filter((p) => kindOf(p) !== 'hold');
  const pull = byHand?.pull ?? pulls[0]?.id;
  if (pull === undefined) return null;
  const [w, h] = [470, 92];
  const [t0, t1] = [record.timeS[0] ?? 0, record.timeS.at(-1) ?? 1];
  const known = record.values.filter((v) => v !== null);
  const [low, high] = [Math.min(...known), Math.max(...known)];
  const x = (t: number) => 4 + ((t - t0) / (t1 - t0 || 1)) * (w - 8);
  const d = record.timeS
    .map((t, i) => {
      const v = record.values[i];
      if (v === null || v === undefined) return '';
      return `${i === 0 || record.values[i - 1] === null ? 'M' : 'L'}${x(t).toFixed(1)} ${(h - 6 - ((v - low) / (high - low || 1)) * (h - 20)).toFixed(1)}`;
    })
    .join('');
  return (
    <div className="grid gap-1.5" role="group" aria-label="Place it by hand">
      <b className="text-[13px]">Place it by hand</b>
      <svg
        viewBox={`0 0 ${w} ${h}`}
        className="w-full cursor-crosshair"
        role="img"
        aria-label="The whole record; click where the pull begins"
        onClick={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          const share = ((e.clientX - box.left) / box.width) * w;
          onPlace({ pull, atS: Number((t0 + ((share - 4) / (w - 8)) * (t1 - t0)).toFixed(1)) });
        }}
      >
        <rect width={w} height={h} fill="var(--well)" />
        <path d={d} fill="none" stroke="var(--ink)" />
        {byHand && (
          <line
            x1={x(byHand.atS)}
            x2={x(byHand.atS)}
            y1="0"
            y2={h}
            stroke="var(--ink)"
            strokeWidth="2"
            strokeDasharray="3 3"
          />
        )}
      </svg>
      <div className="flex flex-wrap items-end gap-2">
        <Field label="Pull">
          <select
            className="input !w-auto"
            aria-label="Pull that is placed"
            value={pull}
            onChange={(e) => onPlace({ pull: e.target.value, atS: byHand?.atS ?? t0 })}
          >
            {pulls.map((p) => (
              <option key={p.id} value={p.id}>
                {name(p.id)}
              </option>
            ))}
          </select>
        </Field>
        <Field label="begins at second">
          <Input
            className="!w-[120px]"
            inputMode="decimal"
            key={byHand?.atS}
            defaultValue={byHand?.atS ?? ''}
            onBlur={(e) => {
              const atS = Number(e.target.value.replace(',', '.'));
              if (e.target.value.trim() !== '' && Number.isFinite(atS)) onPlace({ pull, atS });
            }}
          />
        </Field>
        <span className="text-ink-3 pb-2 text-[12px]">of the logger’s clock. Pulls that have times follow.</span>
      </div>
    </div>
  );
}
