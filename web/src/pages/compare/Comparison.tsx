import {
  compareGeometry,
  dayTrackSvg,
  onePanelSvg,
  rollOnSvg,
  type CompareView,
  type ShownUnits,
} from '@prandel/presentation';
import { measureName, type Job, type Judgement } from '@prandel/core';
import { memo, useCallback, useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { Judged, JudgedPart } from '../../judging/useJudgement.ts';
import { Notice } from '../../parts/Field.tsx';
import { useKeys } from '../../parts/useKeys.ts';
import { AlsoSeenCard } from './AlsoSeenCard.tsx';
import { CameAboutCard } from './CameAboutCard.tsx';
import { AirCard, HeatCard, MeasureList } from './ChannelCards.tsx';
import { ChannelPanels } from './ChannelPanels.tsx';
import { chartSvg, CompareChart } from './CompareChart.tsx';
import { CurveChoices } from './CurveChoices.tsx';
import { LearnedSince } from './LearnedSince.tsx';
import { StandardsCard } from './StandardsCard.tsx';
import { BandCard, ConditionsCard, SchoolsCard, VerdictCard } from './VerdictCards.tsx';

/** More candidates than this are not drawn over each other unasked. */
const MOST_SHOWN = 3;

const toggled = (set: ReadonlySet<string>, id: string) => {
  const next = new Set(set);
  if (!next.delete(id)) next.add(id);
  return next;
};

const SIZES = { size: { width: 826, power: 198, torque: 104, ribbon: 112 }, fontSize: 11 } as const;

/** Width and height of the picture with one panel. */
const ONE_PANEL = [826, 440] as const;

/** @returns null where nothing has a curve */
function viewOf(part: JudgedPart | null, shown: Omit<CompareView, 'job' | 'judgement'>): CompareView | null {
  const drawn = part && part.judgement.setups.some((s) => s.pulls > 0) && part.judgement.pulls.length > 0;
  return drawn ? { ...part, ...shown } : null;
}

/**
 * What was judged, drawn and told: curves over each other, the verdict beside them. Nothing in here is drawn again because something
 * else was asked, before the answer is there.
 */
export const Comparison = memo(function Comparison({
  rowId,
  saved,
  bayId,
  units,
  parts: { curves, difference, judged, judgement },
  judgeOnce,
  onKeepChannels,
}: {
  rowId: string;
  /** As it is stored; what was judged may differ in its method. */
  saved: Job;
  bayId: string | null;
  units: ShownUnits;
  parts: Pick<Judged, 'curves' | 'difference'> & { readonly judged: Job; readonly judgement: Judgement };
  judgeOnce: (other: Job) => Promise<Judgement>;
  /** Null while something is being kept. */
  onKeepChannels: ((channels: string[]) => void) | null;
}) {
  const [chosen, setChosen] = useState<string | null>(null);
  const [asked, setAsked] = useState<string | null>(null);
  const [hidden, setHidden] = useState<ReadonlySet<string> | null>(null);
  const [hiddenPulls, setHiddenPulls] = useState<ReadonlySet<string>>(new Set());
  const [showPulls, setShowPulls] = useState(true);
  const [showSetAside, setShowSetAside] = useState(false);
  const [onePanel, setOnePanel] = useState(false);
  const [rpm, setRpm] = useState<number | null>(null);
  const { question, setups } = saved;
  const { baselineSetup, candidateSetups } = question;
  const candidate = chosen ?? candidateSetups[0] ?? '';
  // Of many setups only the pair that is compared is shown, until somebody asks for others.
  const hiddenSetups = useMemo(() => {
    if (hidden) return hidden;
    const many = candidateSetups.length > MOST_SHOWN;
    const own = setups.filter((s) => s.returnsTo || (many && ![baselineSetup, candidate].includes(s.id)));
    return new Set(own.map((s) => s.id));
  }, [hidden, setups, baselineSetup, candidateSetups, candidate]);
  const names = question.measures.map(measureName);
  const measure = names.find((name) => name === asked) ?? names[0] ?? '';
  useKeys(['m'], () => setAsked(names[(names.indexOf(measure) + 1) % names.length] ?? null));
  useKeys(['1', '2', '3', '4', '5', '6', '7', '8', '9'], (key) => {
    const setup = setups[Number(key) - 1];
    if (setup) showSetup(setup.id);
  });
  useKeys(['p'], () => setShowPulls((on) => !on));
  useKeys(['x'], () =>
    setChosen(candidateSetups[(candidateSetups.indexOf(candidate) + 1) % candidateSetups.length] ?? null),
  );
  const shown = useMemo(
    () => ({ ...{ candidate, measure, hiddenSetups, hiddenPulls, showPulls, showSetAside, units }, ...SIZES }),
    [candidate, measure, hiddenSetups, hiddenPulls, showPulls, showSetAside, units],
  );
  const drawn = useMemo(() => viewOf(curves, shown), [curves, shown]);
  const ribbon = useMemo(() => viewOf(difference, shown), [difference, shown]);
  const view = useMemo(() => viewOf({ job: judged, judgement }, shown), [judged, judgement, shown]);
  const rollOns = useMemo(
    () =>
      rollOnSvg({
        ...{ job: judged, judgement, hiddenSetups, showPulls, units },
        ...{ width: 826, height: 240, fontSize: 11 },
      }),
    [judged, judgement, hiddenSetups, showPulls, units],
  );
  const channels = useMemo(() => {
    const geometry = view && compareGeometry(view);
    return geometry && { ...view, rpm: [geometry.rpmFrom, geometry.rpmTo] as [number, number] };
  }, [view]);
  const track = useMemo(() => dayTrackSvg(judged, judgement, 826, 11), [judged, judgement]);
  // The same markup is not put in anew while the cross-hair moves.
  const [rollOnMarkup, trackMarkup] = [useMarkup(rollOns), useMarkup(track)];
  const inOne = onePanel ? (drawn ?? view) : null;
  const onePanelMarkup = useMarkup(useMemo(() => (inOne ? onePanelSvg(inOne, ...ONE_PANEL) : ''), [inOne]));
  const pullNames = useMemo(() => new Map(judgement.pulls.map((p) => [p.id, p.name])), [judgement]);
  const showSetup = useCallback((id: string) => setHidden((h) => toggled(h ?? hiddenSetups, id)), [hiddenSetups]);
  const showPull = useCallback((id: string) => setHiddenPulls((h) => toggled(h, id)), []);
  const picture = useMemo(() => {
    const own = ribbon ?? view;
    return own && (() => (onePanel ? onePanelSvg(own, ...ONE_PANEL) : chartSvg(own)));
  }, [ribbon, view, onePanel]);
  const verdict = judgement.verdicts.find((v) => v.candidate === candidate && v.measure === measure);
  if (!view && !rollOns)
    return (
      <div className="sheet p-8 text-center text-[15px]">
        Nothing to compare yet.{' '}
        <Link className="underline" to={`/jobs/${rowId}/import`}>
          {candidateSetups.length > 0 ? 'Import the pulls of both setups' : 'Import the pulls of its rounds'}
        </Link>
        .
      </div>
    );
  const chart = view && <CompareChart curves={drawn ?? view} difference={ribbon} rpm={rpm} onRpm={setRpm} />;
  if (candidateSetups.length === 0)
    return (
      <div className="grid gap-2.5">
        <Notice kind="plain">
          A commissioning day: nothing is compared. What its rounds say of the bay is used from the fifth job on.
        </Notice>
        <section className="sheet px-3 py-2" aria-label="Curves">
          {chart}
        </section>
      </div>
    );
  if (!verdict) return null;
  const told = { job: judged, judgement, units, v: verdict };
  return (
    <div className="grid items-start gap-3 grid-cols-[minmax(0,1fr)] lg:grid-cols-[minmax(0,1fr)_384px]">
      <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] gap-2.5">
        {view && (
          <section className="sheet px-3 py-2" aria-label="Curves">
            <CurveChoices
              {...{ job: saved, names: pullNames, shown, onePanel }}
              onCandidate={setChosen}
              onSetup={showSetup}
              onPull={showPull}
              onOnePanel={setOnePanel}
              onPulls={setShowPulls}
              onAside={setShowSetAside}
              picture={picture}
            />
            {onePanel ? (
              <div className="mt-1" data-testid="one-panel" dangerouslySetInnerHTML={onePanelMarkup} />
            ) : (
              chart
            )}
            {(saved.references ?? []).map((r) => (
              <p key={r.name} className="text-ink-2 text-[11.5px]">
                Grey, dashed, not compared: {r.name}, {r.at ? r.at.slice(0, 10) : 'no date'}, {r.bay || 'another bay'}
              </p>
            ))}
          </section>
        )}
        {rollOns && (
          <section className="sheet px-3 py-2" aria-label="Roll-ons" dangerouslySetInnerHTML={rollOnMarkup} />
        )}
        {channels && (
          <ChannelPanels
            keeping={onKeepChannels === null}
            onKeep={onKeepChannels ?? nothing}
            shown={channels}
            width={826}
            rpm={rpm}
            onRpm={setRpm}
          />
        )}
        {track && (
          <section
            className="sheet hidden px-3 py-2 md:block"
            aria-label="Day track"
            dangerouslySetInnerHTML={trackMarkup}
          />
        )}
        <CameAboutCard v={verdict} units={units} />
        <HeatCard job={judged} judgement={judgement} units={units} />
        {bayId && <LearnedSince {...{ rowId, bayId, job: judged, units, judgeOnce }} v={verdict} />}
      </div>
      <aside className="grid gap-2.5" aria-label="Judgement">
        {names.length > 1 && (
          <MeasureList judgement={judgement} candidate={candidate} measure={measure} onChoose={setAsked} />
        )}
        <VerdictCard {...told} />
        <StandardsCard {...{ job: judged, units, judgeOnce }} v={verdict} />
        <BandCard {...told} />
        <AirCard {...told} />
        <AlsoSeenCard jobId={rowId} {...told} />
        <SchoolsCard {...told} />
        <ConditionsCard {...told} />
      </aside>
    </div>
  );
});

const nothing = () => undefined;

const useMarkup = (svg: string) => useMemo(() => ({ __html: svg }), [svg]);
