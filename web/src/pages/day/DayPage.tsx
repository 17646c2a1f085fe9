import { FolderOpen, Undo2, Upload } from 'lucide-react';
import { clock as clockOf } from '@prandel/presentation';
import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { ask, refusedByServer, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJob, useJobChange } from '../../api/hooks.ts';
import { DropFiles } from '../../parts/DropFiles.tsx';
import { Notice } from '../../parts/Field.tsx';
import { useKeys } from '../../parts/useKeys.ts';
import { WorkBar } from '../../parts/WorkBar.tsx';
import { ConditionsGrid } from './ConditionsGrid.tsx';
import {
  carriedOver,
  filledDown,
  importedPulls,
  obstaclesOf,
  withBegin,
  withReason,
  withSetup,
  withStatus,
  withTime,
  withTyped,
  type Day,
} from './dayState.ts';
import { DayTrack } from './DayTrack.tsx';
import { conditionsSaid, obstacleWords, otherCars, STARTS, timesSaid, WEATHER } from './dayWords.ts';
import { sorted, takeDropped } from '../../parts/droppedFiles.ts';
import { NumbersCard } from './NumbersCard.tsx';
import { Refused } from './Refused.tsx';
import { PullDetail } from './PullDetail.tsx';
import { useStagedDay } from './useStagedDay.ts';
import { instantIn, wallOf } from './zoned.ts';

/** A day of files: dropped, looked at as the day it was, put right, imported at once. */
export function DayPage() {
  const { id = '' } = useParams();
  const stored = useJob(id);
  if (!stored.data)
    return stored.error ? (
      <div className="p-6">
        <Notice kind="bad">{stored.error.message}</Notice>
      </div>
    ) : (
      <div className="progress" role="progressbar" aria-label="Loading the job" />
    );
  return <DayOfJob key={id} id={id} stored={stored.data} />;
}

function DayOfJob({ id, stored: { job } }: { id: string; stored: StoredJob }) {
  const go = useNavigate();
  const timeZone = job.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
  const [history, setHistory] = useState<readonly Day[]>([]);
  const [selected, setSelected] = useState<number | null>(null);
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const { work, what, staged, problem, stage, change } = useStagedDay(id, job, timeZone, (laid, pulls, before) => {
    if (before)
      setHistory((days) => days.map((now) => carriedOver(laid, pulls, { first: days[0]!, now, pulls: before })));
    else setHistory([laid]);
    setSelected(laid[0]?.place ?? null);
  });
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    const waiting = takeDropped();
    if (waiting) void stage(waiting);
  });
  const bring = useJobChange<Schemas['DayImportRequest']>(id, (body) =>
    work.run('reading', ({ task, signal }) =>
      ask('post', '/api/jobs/{id}/day-imports', { params: { path: { id }, query: { task } }, body, signal }),
    ),
  );
  const day = history.at(-1) ?? [];
  const put = (next: Day) => setHistory([...history, next]);
  const undo = () => history.length > 1 && setHistory(history.slice(0, -1));
  const pulls = staged?.pulls ?? [];
  const shapes = staged?.shapes ?? [];
  const shapeOfFile = new Map(shapes.flatMap((s, k) => s.files.map((f) => [f.id!, k] as const)));
  const shapeOf = (place: number) => shapeOfFile.get(pulls[place]!.fileId)!;
  const answers = shapes.map((s) => s.answers);
  const nameOf = (place: number) => `Pull ${day.findIndex((r) => r.place === place) + 1}`;
  const clock = (ms: number) => clockOf(new Date(ms).toISOString(), timeZone);
  const row = day.find((r) => r.place === selected);
  const obstacles = staged ? obstaclesOf(day, pulls, shapeOf, answers) : [];
  const taken = day.filter((r) => r.status !== 'left-out').length;
  const setStatus = (place: number, status: (typeof day)[number]['status'], reason = '') =>
    put(withStatus(day, place, status, reason));
  const letters = job.setups.map((s) => s.id.toLowerCase());
  useKeys(['*'], (key, event) => {
    if (key === 'z') return undo();
    if (!row) return;
    if (key === 'arrowdown' || key === 'arrowup' || key === 'arrowright' || key === 'arrowleft') {
      event.preventDefault();
      const next = day[day.indexOf(row) + (key === 'arrowdown' || key === 'arrowright' ? 1 : -1)];
      return next && setSelected(next.place);
    }
    const digit = job.setups[Number(key) - 1];
    // C, T, S, X and R are taken: such a setup is reached by its number.
    const setup = digit ?? (['c', 't', 's', 'x', 'r'].includes(key) ? undefined : job.setups[letters.indexOf(key)]);
    const status = ({ c: 'counted', t: 'settle', s: 'set-aside', x: 'left-out' } as const)[key];
    if (setup || status || key === 'r') event.preventDefault();
    if (setup) put(withSetup(day, [row.place], setup.id));
    else if (status) setStatus(row.place, status);
    else if (key === 'r') put(withBegin(day, row.place));
  });
  const submit = () =>
    staged &&
    bring.mutate(
      {
        files: shapes.flatMap((s, shape) =>
          s.files
            .filter((f) =>
              pulls.some((p) => p.fileId === f.id && day.some((r) => r.status !== 'left-out' && pulls[r.place] === p)),
            )
            .map((f) => ({ id: f.id!, shape })),
        ),
        shapes: shapes.map(({ columns, answers: own }) => ({ columns, answers: own })),
        pulls: importedPulls(day, pulls, shapeOf, answers),
      },
      { onSuccess: () => void go(`/jobs/${id}/compare`) },
    );
  const choose = (list: FileList | null) => list && void stage(sorted(Array.from(list)));
  return (
    <DropFiles words="Drop the day here" onDrop={(dropped) => void stage(dropped)}>
      <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
        <div className="flex flex-wrap items-center gap-3">
          <div>
            <h1>A day of files</h1>
            <p className="text-ink-2">{job.title}</p>
          </div>
          <span className="grow" />
          <input
            ref={files}
            type="file"
            multiple
            className="sr-only"
            tabIndex={-1}
            aria-label="Files of a day"
            onChange={(e) => choose(e.target.files)}
          />
          <input
            ref={(node) => {
              folder.current = node;
              node?.setAttribute('webkitdirectory', '');
            }}
            type="file"
            className="sr-only"
            tabIndex={-1}
            aria-label="Folder of a day"
            onChange={(e) => choose(e.target.files)}
          />
          <button className="btn" onClick={() => files.current?.click()}>
            <Upload size={15} aria-hidden />
            Choose files
          </button>
          <button className="btn" onClick={() => folder.current?.click()}>
            <FolderOpen size={15} aria-hidden />
            Choose a folder
          </button>
          {history.length > 1 && (
            <button className="btn" onClick={undo}>
              <Undo2 size={15} aria-hidden />
              Undo <kbd className="text-ink-3">Z</kbd>
            </button>
          )}
          {day.length > 0 && (
            <button
              className="btn pri min-h-[38px] px-5"
              disabled={obstacles.length > 0 || bring.isPending || work.state !== null}
              onClick={submit}
            >
              {bring.isPending ? 'Importing …' : `Import ${taken} ${taken === 1 ? 'pull' : 'pulls'}`}
            </button>
          )}
        </div>
        {work.state && <WorkBar state={work.state} what={what} onCancel={work.cancel} />}
        {problem && <Notice kind="bad">{problem}</Notice>}
        {bring.error && (
          <Notice kind="bad">
            {refusedByServer(bring.error) && <b>Nothing was imported. </b>}
            {bring.error.message}
          </Notice>
        )}
        {!staged && !work.state && (
          <div className="sheet grid min-h-[220px] place-items-center border-dashed p-8 text-center">
            <div>
              <p className="text-[18px] font-[620]">Drop the files of the day here, a folder, or a ZIP.</p>
              <p className="text-ink-2 mt-1">
                Times, rounds, weather and correction are taken from them. Nothing is stored before you have seen it.
              </p>
              <p className="text-ink-2 mt-3">
                One round only, or a logger’s record?{' '}
                <Link className="underline" to={`/jobs/${id}/import`}>
                  Import it by itself
                </Link>
                .
              </p>
            </div>
          </div>
        )}
        {staged && <Refused staged={staged} />}
        {day.length > 0 && (
          <>
            {obstacles.length > 0 && (
              <Notice>
                {obstacles.slice(0, 4).map((o, i) => (
                  <button
                    key={i}
                    className="block text-left underline-offset-2 hover:underline"
                    onClick={() => ('place' in o ? setSelected(o.place) : 'places' in o && setSelected(o.places[1]))}
                  >
                    {obstacleWords(o, nameOf, shapes.length)}
                  </button>
                ))}
              </Notice>
            )}
            {otherCars(day, pulls).map(({ vehicle, places }) => (
              <Notice key={vehicle}>
                {places.length} {places.length === 1 ? 'pull is' : 'pulls are'} of another car, as the files have it: “
                {vehicle}”.{' '}
                <button
                  className="underline"
                  onClick={() => put(places.reduce<Day>((d, place) => withStatus(d, place, 'left-out'), day))}
                >
                  Leave them out
                </button>
              </Notice>
            ))}
            <section className="sheet card grid gap-2" aria-label="The day">
              <DayTrack
                {...{ day, selected, nameOf, clock }}
                setups={job.setups}
                onSelect={setSelected}
                onSetup={(places, setup) => put(withSetup(day, places, setup))}
              />
              <p className="text-ink-2 text-[12.5px]">
                <b>When:</b> {timesSaid(day)}. <b>Weather:</b> {conditionsSaid(day, pulls, WEATHER)}.{' '}
                <b>At the start:</b> {conditionsSaid(day, pulls, STARTS)}.
              </p>
              <p className="text-ink-3 text-[12px]">
                A dashed block has its setup from the plan. Drag a pull or a round to another setup, or: arrows move, a
                letter or number sets the setup, C counted, T settle, S set aside, X leave out, R new round, Z undo.
              </p>
            </section>
            <div className="grid items-start gap-3 lg:grid-cols-2">
              {row && (
                <PullDetail
                  {...{ row, pulls, nameOf }}
                  pull={pulls[row.place]!}
                  name={nameOf(row.place)}
                  setups={job.setups}
                  wall={(ms) => wallOf(ms, timeZone)}
                  instant={(wall) => instantIn(wall, timeZone)}
                  onSetup={(setup) => put(withSetup(day, [row.place], setup))}
                  onStatus={(status, reason) => setStatus(row.place, status, reason)}
                  onReason={(reason) => setHistory(withReason(history, row.place, reason))}
                  onBegins={() => put(withBegin(day, row.place))}
                  onTime={(ms, whole) => put(withTime(day, row.place, ms, whole))}
                />
              )}
              <div className="grid gap-3">
                {shapes.map((shape, k) => (
                  <NumbersCard
                    key={shape.signature}
                    {...{ shape, pulls }}
                    number={k + 1}
                    several={shapes.length > 1}
                    rows={day.filter((r) => shapeOf(r.place) === k)}
                    open={!pulls.some((p) => shapeOfFile.get(p.fileId) === k)}
                    onAnswers={(own) =>
                      change(k, { answers: own, proposed: null }, own.rpmPerKmH !== (shape.answers?.rpmPerKmH ?? null))
                    }
                    onColumns={(columns) => change(k, { columns }, true)}
                  />
                ))}
              </div>
            </div>
            <ConditionsGrid
              {...{ day, pulls, nameOf, clock, selected }}
              onSelect={setSelected}
              onTyped={(cells) => put(withTyped(day, cells))}
              onFill={() => put(filledDown(day, pulls))}
            />
          </>
        )}
        {staged && day.length === 0 && !work.state && (
          <div className="grid gap-3">
            {shapes.map((shape, k) => (
              <NumbersCard
                key={shape.signature}
                {...{ shape, pulls }}
                number={k + 1}
                several={shapes.length > 1}
                rows={[]}
                open
                onAnswers={(own) => change(k, { answers: own, proposed: null }, true)}
                onColumns={(columns) => change(k, { columns }, true)}
              />
            ))}
          </div>
        )}
      </div>
    </DropFiles>
  );
}
