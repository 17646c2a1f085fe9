import {
  compareGeometry,
  dayTrackSvg,
  matters,
  measureWords,
  onePanelSvg,
  setupStyles,
  type CompareView,
  rollOnSvg,
} from '@prandel/presentation';
import { CORRECTION_IDS, CORRECTION_NAMES, isCorrectionId, measureName, type Job } from '@prandel/core';
import { useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';
import { ask, type Schemas } from '../../api/client.ts';
import { useJob, useJobChange, useUnits } from '../../api/hooks.ts';
import { useJudgement } from '../../judging/useJudgement.ts';
import { DieselFields } from '../../parts/DieselFields.tsx';
import { Choice } from '../../parts/Choice.tsx';
import { EarlyLook } from '../../parts/EarlyLook.tsx';
import { TakeAway } from '../../parts/TakeAway.tsx';
import { Notice } from '../../parts/Field.tsx';
import { Badge } from '../../parts/marks.tsx';
import { useKeys } from '../../parts/useKeys.ts';
import { CameAboutCard } from './CameAboutCard.tsx';
import { AlsoSeenCard } from './AlsoSeenCard.tsx';
import { AirCard, HeatCard, MeasureList } from './ChannelCards.tsx';
import { ChannelPanels } from './ChannelPanels.tsx';
import { CompareChart } from './CompareChart.tsx';
import { StandardsCard } from './StandardsCard.tsx';
import { PullPicker } from './PullPicker.tsx';
import { LearnedSince } from './LearnedSince.tsx';
import { BandCard, ConditionsCard, SchoolsCard, VerdictCard } from './VerdictCards.tsx';
import { For } from '../../parts/May.tsx';

const WIDTHS = [
  ['0', 'no averaging'],
  ['100', '100 rpm'],
  ['200', '200 rpm'],
  ['400', '400 rpm'],
] as const;
/** More comparisons than this are chosen from a list. */
const MOST_BUTTONS = 4;
/** More candidates than this are not drawn over each other unasked. */
const MOST_SHOWN = 3;

const toggled = (set: ReadonlySet<string>, id: string) => {
  const next = new Set(set);
  if (!next.delete(id)) next.add(id);
  return next;
};

/** Curves over each other, the verdict beside them, everything recomputed at once when the method changes. */
export function ComparePage() {
  const { id = '' } = useParams();
  const stored = useJob(id);
  const units = useUnits();
  const [method, setMethod] = useState<
    Partial<Pick<Job['method'], 'correction' | 'averagingWidthRpm' | 'compressionIgnition'>>
  >({});
  const [chosen, setChosen] = useState<string | null>(null);
  const [asked, setAsked] = useState<string | null>(null);
  const [hidden, setHidden] = useState<ReadonlySet<string> | null>(null);
  const [hiddenPulls, setHiddenPulls] = useState<ReadonlySet<string>>(new Set());
  const [showPulls, setShowPulls] = useState(true);
  const [showSetAside, setShowSetAside] = useState(false);
  const [onePanel, setOnePanel] = useState(false);
  const [rpm, setRpm] = useState<number | null>(null);
  const saved = stored.data?.job ?? null;
  const job = useMemo(() => saved && { ...saved, method: { ...saved.method, ...method } }, [saved, method]);
  const { judgement, judged, step, busy, failed, milliseconds, judgeOnce } = useJudgement(id, job);
  const keep = useJobChange<Schemas['JobEdit']>(id, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id } }, body: edit }),
  );
  const candidate = chosen ?? saved?.question.candidateSetups[0] ?? '';
  // Of many setups only the pair that is compared is shown, until somebody asks for others.
  const hiddenSetups = useMemo(() => {
    if (hidden) return hidden;
    const { baselineSetup = '', candidateSetups = [] } = saved?.question ?? {};
    const many = candidateSetups.length > MOST_SHOWN;
    const own = saved?.setups.filter((s) => s.returnsTo || (many && ![baselineSetup, candidate].includes(s.id)));
    return new Set(own?.map((s) => s.id));
  }, [hidden, saved, candidate]);
  const names = saved?.question.measures.map(measureName) ?? [];
  const measure = names.find((name) => name === asked) ?? names[0] ?? '';
  useKeys(['m'], () => setAsked(names[(names.indexOf(measure) + 1) % names.length] ?? null));
  useKeys(['1', '2', '3', '4', '5', '6', '7', '8', '9'], (key) => {
    const setup = saved?.setups[Number(key) - 1];
    if (setup) setHidden((h) => toggled(h ?? hiddenSetups, setup.id));
  });
  useKeys(['p'], () => setShowPulls((on) => !on));
  useKeys(['x'], () => {
    const all = saved?.question.candidateSetups ?? [];
    setChosen(all[(all.indexOf(candidate) + 1) % all.length] ?? null);
  });
  const view = useMemo(
    (): CompareView | null =>
      judged && judgement && judgement.setups.some((s) => s.pulls > 0) && judgement.pulls.length > 0
        ? {
            job: judged,
            judgement,
            candidate,
            measure,
            hiddenSetups,
            hiddenPulls,
            showPulls,
            showSetAside,
            units,
            size: { width: 826, power: 198, torque: 104, ribbon: 112 },
            fontSize: 11,
          }
        : null,
    [judged, judgement, candidate, measure, hiddenSetups, hiddenPulls, showPulls, showSetAside, units],
  );
  const rollOns = useMemo(
    () =>
      judged && judgement
        ? rollOnSvg({
            ...{ job: judged, judgement, hiddenSetups, showPulls, units },
            ...{ width: 826, height: 240, fontSize: 11 },
          })
        : '',
    [judged, judgement, hiddenSetups, showPulls, units],
  );
  const geometry = useMemo(() => view && compareGeometry(view), [view]);
  // Verdicts that come ahead of their ribbon change nothing of the picture that came with the curves.
  const [drawn, setDrawn] = useState(view);
  if (view !== drawn && !(step === 'verdicts' && drawn !== null && drawn.job === view?.job)) setDrawn(view);
  const track = useMemo(
    () => (judged && judgement ? dayTrackSvg(judged, judgement, 826, 11) : ''),
    [judged, judgement],
  );
  if (stored.error)
    return (
      <div className="p-6">
        <Notice kind="bad">{stored.error.message}</Notice>
      </div>
    );
  if (!job || !stored.data || !saved)
    return <div className="progress" role="progressbar" aria-label="Loading the job" />;
  const verdict = judgement?.verdicts.find((v) => v.candidate === candidate && v.measure === measure);
  const looks = setupStyles(job.setups);
  const changed =
    job.method.correction !== saved.method.correction ||
    job.method.averagingWidthRpm !== saved.method.averagingWidthRpm ||
    job.method.compressionIgnition !== saved.method.compressionIgnition;
  const save = () =>
    keep.mutate(
      {
        version: stored.data.version,
        method: {
          ...{ correction: job.method.correction, averagingWidthRpm: job.method.averagingWidthRpm },
          ...(job.method.compressionIgnition ? { compressionIgnition: job.method.compressionIgnition } : {}),
        },
      },
      { onSuccess: () => setMethod({}) },
    );
  return (
    <div className="mx-auto grid max-w-[1280px] gap-2.5 px-4 pt-2.5 pb-4">
      <div className="flex flex-wrap items-center gap-3">
        <div className="min-w-0 flex-1 basis-[420px]">
          <h1>{job.title}</h1>
          <p className="text-ink-2 mt-0.5 text-[12.5px]">
            {job.vehicle.label} · {job.id} ·{' '}
            {job.question.windowRpm ? `agreed over ${job.question.windowRpm.join('–')} rpm: ` : 'no window agreed: '}
            {job.question.measures
              .map(
                (m) =>
                  `${measureWords(measureName(m)).name}, ${matters(measureName(m), m.meaningful, units)} would matter`,
              )
              .join('; ')}
          </p>
        </div>
        <Choice
          label="Correction standard"
          value={job.method.correction}
          options={CORRECTION_IDS.map((c) => [c, CORRECTION_NAMES[c]] as const)}
          onChange={(c) => isCorrectionId(c) && setMethod((m) => ({ ...m, correction: c }))}
        />
        <Choice
          label="Averaging width"
          value={String(job.method.averagingWidthRpm)}
          options={
            WIDTHS.some(([w]) => w === String(job.method.averagingWidthRpm))
              ? WIDTHS.map(([w, words]) => [w as string, words as string] as const)
              : [
                  ...WIDTHS.map(([w, words]) => [w as string, words as string] as const),
                  [String(job.method.averagingWidthRpm), `${job.method.averagingWidthRpm} rpm`] as const,
                ]
          }
          onChange={(w) => setMethod((m) => ({ ...m, averagingWidthRpm: Number(w) }))}
        />
        {changed && (
          <>
            <button className="btn sm" onClick={() => setMethod({})}>
              As it was
            </button>
            <For role="technician">
              <button className="btn sm" disabled={keep.isPending} onClick={save}>
                Keep for the job
              </button>
            </For>
          </>
        )}
        <Link className="btn pri" to={`/jobs/${id}/report`}>
          Report
        </Link>
      </div>
      {job.method.correction === 'iso-1585-ci' && (
        <section className="sheet card" aria-label="Compression ignition">
          <DieselFields
            value={job.method.compressionIgnition ?? null}
            onChange={(engine) => engine && setMethod((m) => ({ ...m, compressionIgnition: engine }))}
          />
        </section>
      )}
      {keep.error && <Notice kind="bad">{keep.error.message}</Notice>}
      <div className="-my-1 h-[2px]">
        {busy && <div className="progress" role="progressbar" aria-label="Judging" />}
      </div>
      {failed && <Notice kind="bad">{failed}</Notice>}
      <EarlyLook job={job} />
      {judgement && !view && !rollOns && (
        <div className="sheet p-8 text-center text-[15px]">
          Nothing to compare yet.{' '}
          <Link className="underline" to={`/jobs/${id}/import`}>
            {job.question.candidateSetups.length > 0
              ? 'Import the pulls of both setups'
              : 'Import the pulls of its rounds'}
          </Link>
          .
        </div>
      )}
      {view && judgement && job.question.candidateSetups.length === 0 && (
        <div className="grid gap-2.5">
          <Notice kind="plain">
            A commissioning day: nothing is compared. What its rounds say of the bay is used from the fifth job on.
          </Notice>
          <section className="sheet px-3 py-2" aria-label="Curves">
            <CompareChart view={drawn ?? view} rpm={rpm} onRpm={setRpm} />
          </section>
        </div>
      )}
      {(view ?? rollOns) && verdict && judgement && judged && (
        <div
          className="grid items-start gap-3 grid-cols-[minmax(0,1fr)] lg:grid-cols-[minmax(0,1fr)_384px]"
          data-judged-in={milliseconds === null ? undefined : Math.round(milliseconds)}
          data-method={`${job.method.correction} ${job.method.averagingWidthRpm}`}
          data-busy={busy}
        >
          <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] gap-2.5">
            {view && (
              <section className="sheet px-3 py-2" aria-label="Curves">
                <div className="flex flex-wrap items-center gap-1.5">
                  {job.question.candidateSetups.length > MOST_BUTTONS ? (
                    <Choice
                      label="Comparison"
                      value={candidate}
                      options={job.question.candidateSetups.map(
                        (c) =>
                          [
                            c,
                            `${c} against ${job.question.baselineSetup}: ${job.setups.find((s) => s.id === c)?.label ?? ''}`,
                          ] as const,
                      )}
                      onChange={setChosen}
                    />
                  ) : (
                    <div className="seg" role="group" aria-label="Comparison">
                      {job.question.candidateSetups.map((c) => (
                        <button key={c} aria-pressed={c === candidate} onClick={() => setChosen(c)}>
                          <Badge id={c} setups={job.setups} />
                          against
                          <Badge id={job.question.baselineSetup} setups={job.setups} />
                        </button>
                      ))}
                    </div>
                  )}
                  {job.setups.map((s) => (
                    <button
                      key={s.id}
                      className="chip"
                      aria-pressed={!hiddenSetups.has(s.id)}
                      onClick={() => setHidden(toggled(hiddenSetups, s.id))}
                    >
                      <Badge id={s.id} setups={job.setups} />
                      <svg width="16" height="8" aria-hidden>
                        <line
                          x1="0"
                          x2="16"
                          y1="4"
                          y2="4"
                          stroke={looks.get(s.id)?.line}
                          strokeWidth="2.6"
                          strokeDasharray={
                            looks.get(s.id)?.dash === 'solid'
                              ? undefined
                              : (looks.get(s.id)!.dash as number[]).join(' ')
                          }
                        />
                      </svg>
                      {hiddenSetups.has(s.id) ? 'off' : s.label}
                    </button>
                  ))}
                  <div className="grow" />
                  <button className="btn sm" aria-pressed={onePanel} onClick={() => setOnePanel((on) => !on)}>
                    One panel
                  </button>
                  <div className="seg" role="group" aria-label="Single pulls">
                    <button aria-pressed={!showPulls} onClick={() => setShowPulls(false)}>
                      Means
                    </button>
                    <button aria-pressed={showPulls} onClick={() => setShowPulls(true)}>
                      Pulls too
                    </button>
                  </div>
                  <TakeAway
                    name={`${job.id} ${candidate} against ${job.question.baselineSetup}`}
                    svg={() =>
                      document.querySelector('[data-testid=compare-chart] svg, [data-testid=one-panel] svg')
                        ?.outerHTML ?? null
                    }
                  />
                  <PullPicker
                    job={job}
                    hidden={hiddenPulls}
                    onToggle={(p) => setHiddenPulls(toggled(hiddenPulls, p))}
                    aside={showSetAside}
                    onAside={setShowSetAside}
                    names={new Map(judgement.pulls.map((p) => [p.id, p.name]))}
                  />
                </div>
                {onePanel ? (
                  <div
                    className="mt-1"
                    data-testid="one-panel"
                    dangerouslySetInnerHTML={{ __html: onePanelSvg(drawn ?? view, 826, 440) }}
                  />
                ) : (
                  <CompareChart view={drawn ?? view} rpm={rpm} onRpm={setRpm} />
                )}
                {(job.references ?? []).map((r) => (
                  <p key={r.name} className="text-ink-2 text-[11.5px]">
                    Grey, dashed, not compared: {r.name}, {r.at ? r.at.slice(0, 10) : 'no date'},{' '}
                    {r.bay || 'another bay'}
                  </p>
                ))}
              </section>
            )}
            {rollOns && (
              <section
                className="sheet px-3 py-2"
                aria-label="Roll-ons"
                dangerouslySetInnerHTML={{ __html: rollOns }}
              />
            )}
            {view && geometry && (
              <ChannelPanels
                keeping={keep.isPending}
                onKeep={(channels) => keep.mutate({ version: stored.data.version, day: { channels } })}
                shown={{ ...view, rpm: [geometry.rpmFrom, geometry.rpmTo] }}
                width={826}
                rpm={rpm}
                onRpm={setRpm}
              />
            )}
            {track && (
              <section
                className="sheet hidden px-3 py-2 md:block"
                aria-label="Day track"
                dangerouslySetInnerHTML={{ __html: track }}
              />
            )}
            <CameAboutCard v={verdict} units={units} />
            <HeatCard job={judged} judgement={judgement} units={units} />
            {stored.data.links.bayId && (
              <LearnedSince {...{ rowId: id, bayId: stored.data.links.bayId, job, units, judgeOnce }} v={verdict} />
            )}
          </div>
          <aside className="grid gap-2.5" aria-label="Judgement">
            {names.length > 1 && (
              <MeasureList judgement={judgement} candidate={candidate} measure={measure} onChoose={setAsked} />
            )}
            <VerdictCard job={job} v={verdict} units={units} judgement={judgement} />
            <StandardsCard {...{ job, units, judgeOnce }} v={verdict} />
            <BandCard job={job} v={verdict} units={units} judgement={judgement} />
            <AirCard job={job} v={verdict} units={units} judgement={judgement} />
            <AlsoSeenCard jobId={id} job={judged} v={verdict} units={units} judgement={judgement} />
            <SchoolsCard job={job} v={verdict} units={units} judgement={judgement} />
            <ConditionsCard job={job} v={verdict} units={units} judgement={judgement} />
          </aside>
        </div>
      )}
    </div>
  );
}
