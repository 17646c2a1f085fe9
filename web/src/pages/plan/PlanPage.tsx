import { plain, planWarningWords } from '@prandel/presentation';
import {
  drawStands,
  planWarnings,
  planRequestOf,
  roundWarnings,
  pullsFor,
  setupsForPlan,
  startingPlan,
  tolerance,
  USUAL_DAY,
  usualShape,
  isCurved,
  measureFacts,
  numberedReturns,
  plannedDaySees,
  mediansOf,
  type BayPrior,
  type DayPlan,
  type PlannedDay,
  type PlanStep,
} from '@prandel/core';
import { useQuery } from '@tanstack/react-query';
import { CalendarDays } from 'lucide-react';
import { useMemo } from 'react';
import { useForm, useWatch } from 'react-hook-form';
import { useParams } from 'react-router';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useBays, useJob, useJobChange, useUnits } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { DayTimeLines } from './DayTimeLine.tsx';
import { FittingTable } from './FittingTable.tsx';
import { usePlans } from './usePlans.ts';
import { RoundsEditor } from './RoundsEditor.tsx';
import { NumberField, TimeField } from './planFields.tsx';
import { HeatNotes } from './HeatNotes.tsx';
import { ShelfNotes } from './ShelfNotes.tsx';
import { PlanShapes } from './PlanShapes.tsx';
import { CommissioningPlan } from './CommissioningPlan.tsx';
import { addedSetup, countedOf, factorAt, local } from './planValues.ts';
import { For } from '../../parts/May.tsx';

/** The plan: what each shape of day costs in minutes and finds in per cent, the time line, and what speaks against it. */
export function PlanPage() {
  const { id = '' } = useParams();
  const stored = useJob(id);
  // Lives longer than the planner, which starts anew from what was saved: the word that it was saved stays.
  const change = useJobChange<Schemas['JobEdit']>(id, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id } }, body: edit }),
  );
  if (stored.error)
    return (
      <div className="p-6">
        <Notice kind="bad">{stored.error.message}</Notice>
      </div>
    );
  if (!stored.data) return <div className="progress" role="progressbar" aria-label="Loading the job" />;
  if (stored.data.job.question.candidateSetups.length === 0) return <CommissioningPlan job={stored.data.job} />;
  return <Planner key={stored.data.version} stored={stored.data} change={change} />;
}

const NO_PLANS: readonly PlannedDay[] = [];

/** What the planner's fields hold. */
interface Planned {
  readonly plan: DayPlan;
  readonly counted: number;
  readonly extension: boolean;
  /** Rounds that somebody put in order here; null while nobody did. */
  readonly own: readonly PlanStep[] | null;
}

function Planner({
  stored: { job, rowId, version, links },
  change,
}: {
  stored: StoredJob;
  change: ReturnType<typeof useJobChange<Schemas['JobEdit']>>;
}) {
  const day = job.day ?? USUAL_DAY;
  const { control, setValue } = useForm<Planned>({
    defaultValues: {
      plan: startingPlan(job),
      counted: countedOf(job),
      extension: job.question.extension === 'declared',
      own: null,
    },
  });
  const { plan, counted, extension, own } = useWatch({ control }) as Planned;
  const frozen = job.pulls.some((p) => p.status === 'counted');
  const bay = useBays().data?.find((b) => b.id === links.bayId);
  // Once a car is on the rollers its job bears what the bay had learned by then; before, the bay is asked.
  const history = useQuery({
    queryKey: ['history', bay?.id],
    queryFn: () => ask('get', '/api/bays/{id}/history', { params: { path: { id: bay!.id } } }),
    enabled: Boolean(bay) && job.pulls.length === 0,
  });
  const learned = history.data?.prior;
  const measured = history.data?.minutesPerPull ?? null;
  const request = useMemo(() => {
    const bay = { ...job.bay, prior: learned ?? job.bay.prior };
    const asked = { ...planRequestOf({ ...job, bay, day: { ...day, plan } }), counted };
    return own ? { ...asked, own: numberedReturns(own, asked) } : asked;
  }, [job, day, plan, counted, learned, own]);
  const several = job.question.candidateSetups.length > 1;
  // Plans are compared by the first measure that has a per cent; what they see of the others stands beside it.
  const log = job.question.measures.filter((m) => measureFacts(m).scale === 'log');
  const first = log.find((m) => isCurved(measureFacts(m))) ?? log[0];
  const factor = first ? measureFacts(first).factor : 1;
  const matters = first ? first.meaningful / factor : 0;
  const inPercent = first !== undefined;
  const known = usePlans(job, request, inPercent ? matters : null);
  const plans = known?.plans ?? NO_PLANS;
  const needed = useMemo(
    () => Object.fromEntries(plans.map((p) => [p.shape, pullsFor(p.shape, matters, request)])),
    [plans, matters, request],
  );
  const left = known?.left ?? [];
  const chosen = plans.find((p) => p.shape === plan.shape) ?? plans[0];
  const start = plan.startAt ? new Date(plan.startAt) : null;
  const startMin = start ? start.getHours() * 60 + start.getMinutes() : plan.openFromMin;
  const units = useUnits();
  if (!chosen) return <div className="progress" role="progressbar" aria-label="Working the plans out" />;
  // What was just moved is seen at once; what it finds follows.
  const shownSteps = plan.shape === 'own' && request.own ? request.own : chosen.steps;
  const openMin = plan.openUntilMin - plan.openFromMin;
  const ofRounds = roundWarnings(
    { steps: shownSteps, blocks: chosen.blocks },
    { setups: setupsForPlan(job, shownSteps), baseline: job.question.baselineSetup },
    openMin,
  );
  const ofDay = planWarnings(
    chosen,
    startMin,
    { fromMin: plan.openFromMin, untilMin: plan.openUntilMin },
    plan.forecastC,
    { airDriftC: tolerance(job.method, 'airDriftC'), factorDriftPercent: tolerance(job.method, 'factorDriftPercent') },
    (airC) => factorAt(job, airC),
  );
  const warnings = [...ofRounds, ...ofDay];
  const save = () => {
    const setups = setupsForPlan(job, chosen.steps);
    const added = setups.filter((s) => !job.setups.some((old) => old.id === s.id));
    const removedSetups = job.setups.filter((s) => !setups.some((next) => next.id === s.id)).map((s) => s.id);
    // What the server drew and what the bay added are theirs to keep.
    const { drawn: _, extended: __, ...times } = plan;
    change.mutate({
      version,
      day: {
        plan: {
          ...times,
          shape: chosen.shape,
          forecastC: plan.forecastC && [...plan.forecastC],
          times: (plan.times ?? []).map((t) => ({ ...t })),
        },
      },
      ...(frozen
        ? {}
        : {
            question: {
              plan: [...chosen.steps],
              extension: extension ? 'declared' : null,
            },
            ...(added.length > 0 ? { setups: added.map(addedSetup) } : {}),
            ...(removedSetups.length > 0 ? { removedSetups } : {}),
          }),
    });
  };
  const set = <K extends keyof typeof plan>(key: K, value: (typeof plan)[K]) =>
    setValue('plan', { ...plan, [key]: value });
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-start gap-3">
        <div className="min-w-0 grow">
          <h1>Plan the day</h1>
          <p className="text-ink-2 mt-0.5">
            {job.vehicle.label}. {job.title}
          </p>
        </div>
        {day.plan.startAt &&
          Array.from({ length: chosen.days }, (_, i) => (
            <a key={i} className="btn" href={`/api/jobs/${rowId}/plan.ics${chosen.days > 1 ? `?day=${i + 1}` : ''}`}>
              <CalendarDays size={15} aria-hidden />
              {chosen.days > 1 ? `Day ${i + 1}` : 'For the calendar'}
            </a>
          ))}
        <For role="technician">
          <button className="btn pri" onClick={save} disabled={change.isPending}>
            Save the plan
          </button>
        </For>
      </div>
      <div className="-my-1 h-[2px]">
        {known?.busy && <div className="progress" role="progressbar" aria-label="Working the plans out" />}
      </div>
      {change.error && <Notice kind="bad">{change.error.message}</Notice>}
      {change.isSuccess && <Notice kind="plain">The plan is saved.</Notice>}
      {frozen && <Notice>Pulls already count: the order of setups is frozen. Times may still be changed.</Notice>}
      <PlanShapes
        plans={plans}
        chosen={plan.shape}
        usual={usualShape(job, plan.fittingMinutes)}
        needed={needed}
        matters={matters}
        factor={factor}
        inPercent={inPercent}
        sees={(p) => plannedDaySees(job, p)}
        units={units}
        frozen={frozen}
        onChoose={(shape) => set('shape', shape)}
      />
      <p className="text-ink-2 text-[12.5px]" data-testid="prior">
        {priorWords(job.bay.label, request.prior, history.data !== undefined)}
      </p>
      <ShelfNotes
        job={job}
        seesPercent={plannedDaySees(job, chosen).find((s) => s.measure === 'windowMeanPower')?.from ?? null}
      />
      <HeatNotes job={job} vehicleId={links.vehicleId} plan={plan} matters={matters} />
      {known?.left === null ? (
        <Notice>
          No order finds {plain(factor * matters, 1)} % of every part in this bay, however many are left out: steadier
          conditions would, or a larger gain that matters.
        </Notice>
      ) : (
        left.length > 0 && (
          <Notice>
            None of these plans finds {plain(factor * matters, 1)} % of every part. Without {left.join(', ')} the rest
            does: leave {left.length === 1 ? 'it' : 'them'} for another day.
          </Notice>
        )
      )}
      {warnings.map((w) => (
        <Notice key={`${w.code}${'setup' in w ? w.setup : 'carries' in w ? w.carries : ''}`}>
          {planWarningWords(w, units)}
        </Notice>
      ))}
      <section className="sheet card" aria-label="Time line">
        <h3>The day</h3>
        <DayTimeLines
          day={chosen}
          startMin={startMin}
          openFromMin={plan.openFromMin}
          setups={job.setups}
          openUntilMin={plan.openUntilMin}
        />
      </section>
      {several && !frozen && (
        <section className="sheet card grid gap-2" aria-label="Order of the rounds">
          <div className="flex flex-wrap items-baseline gap-3">
            <h3>The rounds, one after the other</h3>
            <span className="text-ink-2 text-[12.5px]" data-testid="buys">
              {buys(plans[0]!, chosen, factor)}
            </span>
          </div>
          <RoundsEditor
            steps={shownSteps}
            setups={setupsForPlan(job, shownSteps)}
            choices={[job.question.baselineSetup, ...job.question.candidateSetups]}
            settle={request.settle}
            counted={counted}
            onChange={(steps) => {
              setValue('own', steps);
              set('shape', 'own');
            }}
          />
          <details>
            <summary className="cursor-pointer text-[13px] font-[560]">Minutes from setup to setup</summary>
            <FittingTable
              job={job}
              times={plan.times ?? []}
              fittingMinutes={plan.fittingMinutes}
              onChange={(times) => set('times', times)}
            />
          </details>
        </section>
      )}
      <section className="sheet card grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
        <Field label="First pull at">
          <Input
            type="datetime-local"
            value={start ? local(start) : ''}
            onChange={(e) => set('startAt', e.target.value ? new Date(e.target.value).toISOString() : null)}
          />
        </Field>
        <NumberField
          label="Counted pulls a setup"
          value={counted}
          onChange={(v) => setValue('counted', v)}
          least={2}
          most={12}
        />
        <NumberField
          label="Minutes a pull, with the pause"
          value={plan.minutesPerPull}
          onChange={(v) => set('minutesPerPull', v)}
          least={1}
          most={60}
        />
        <NumberField
          label="Minutes of fitting"
          value={plan.fittingMinutes}
          onChange={(v) => set('fittingMinutes', v)}
          least={0}
          most={2880}
        />
        <TimeField label="Opening" value={plan.openFromMin} onChange={(v) => set('openFromMin', v)} />
        <TimeField label="Closing" value={plan.openUntilMin} onChange={(v) => set('openUntilMin', v)} />
        <NumberField
          label="Forecast, coldest °C"
          value={plan.forecastC?.[0] ?? null}
          onChange={(v) => set('forecastC', [v, plan.forecastC?.[1] ?? v])}
          least={-40}
          most={60}
        />
        <NumberField
          label="Forecast, warmest °C"
          value={plan.forecastC?.[1] ?? null}
          onChange={(v) => set('forecastC', [plan.forecastC?.[0] ?? v, v])}
          least={-40}
          most={60}
        />
        {measured !== null && Math.abs(measured - plan.minutesPerPull) > 0.25 && (
          <p className="self-end pb-1 text-[12.5px]">
            {bay!.label} takes {plain(measured, 1)} min from pull to pull.{' '}
            <button
              type="button"
              className="btn sm"
              onClick={() => set('minutesPerPull', Math.round(10 * measured) / 10)}
            >
              Plan with that
            </button>
          </p>
        )}
        {job.question.candidateSetups.length > 1 && (
          <fieldset className="grid gap-1 sm:col-span-2 lg:col-span-4" data-testid="order">
            <legend className="text-ink-2 text-[12px]">Order of the setups</legend>
            <label className="flex items-center gap-2">
              <input
                type="radio"
                name="order"
                checked={plan.order === 'fixed'}
                disabled={frozen}
                onChange={() => set('order', 'fixed')}
              />
              Fixed, as the question names them: {job.question.candidateSetups.join(', ')}
            </label>
            <label className="flex items-center gap-2">
              <input
                type="radio"
                name="order"
                checked={plan.order === 'randomised'}
                disabled={frozen}
                onChange={() => set('order', 'randomised')}
              />
              Randomised,{' '}
              {drawStands(plan.drawn, job.question.candidateSetups)
                ? `drawn as ${plan.drawn.candidates.join(', ')} (seed ${plan.drawn.seed}); the draw stands`
                : 'drawn once when the plan is saved: what the day does by itself then falls on no setup by habit'}
            </label>
          </fieldset>
        )}
        <label className="flex items-center gap-2 self-end pb-1.5 sm:col-span-2 lg:col-span-4">
          <input
            type="checkbox"
            checked={extension}
            disabled={frozen}
            onChange={(e) => setValue('extension', e.target.checked)}
          />
          Declare one extension now: if the plan leaves the question open, one more round may be added. Both looks then
          use 97 % intervals.
        </label>
      </section>
    </div>
  );
}

/** What an order buys beside the first of those that are offered. */
function buys(first: PlannedDay, chosen: PlannedDay, factor: number): string {
  const finds = (p: PlannedDay) => `${plain(Math.ceil(factor * p.findsPercent * 10 - 1e-9) / 10, 1)} %`;
  const more = Math.round(chosen.minutes - first.minutes);
  if (chosen.shape === first.shape || chosen.days !== first.days || !Number.isFinite(chosen.findsPercent))
    return Number.isFinite(chosen.findsPercent)
      ? `finds ${finds(chosen)}`
      : 'a part has no round: nothing is found of it';
  return `finds ${finds(chosen)} instead of ${finds(first)} for ${Math.abs(more)} min ${more < 0 ? 'less' : 'more'} than one return at the end`;
}

/** Where the plan's idea of the bay comes from: asked of the bay now, copied when the car went on, or any bay's. */
function priorWords(bay: string, prior: BayPrior | null, asked: boolean): string {
  const { scatter, mount, drift } = mediansOf(prior);
  const figures = `${plain(scatter, 2)} % from pull to pull, ${plain(mount, 2)} % from round to round, ${plain(drift, 2)} % of drift an hour`;
  if (prior?.learned.power)
    return `Reckoned with ${figures}: what ${bay} ${asked ? 'has shown' : 'had shown when the car went on the rollers'}, in ${prior.jobs} jobs and ${prior.returnChecks} return checks.`;
  return `Reckoned with ${figures}: what any bay does, until ${bay || 'the bay'} has five jobs of its own${prior ? ` (it has ${prior.jobs})` : ''}.`;
}
