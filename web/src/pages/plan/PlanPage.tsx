import { plain } from '@prandel/charts';
import {
  comparePlans,
  newSetup,
  planWarnings,
  planWishOf,
  pullsFor,
  tolerance,
  USUAL_DAY,
  type PlanShape,
} from '@prandel/core';
import { CalendarDays } from 'lucide-react';
import { useMemo, useState } from 'react';
import { useParams } from 'react-router';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJob, useJobChange } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { DayTimeLine } from './DayTimeLine.tsx';

/** The plan: what each shape of day costs in minutes and finds in per cent, the time line, and what speaks against it. */
export function PlanPage() {
  const { id = '' } = useParams();
  const stored = useJob(id);
  if (stored.error)
    return (
      <div className="p-6">
        <Notice kind="bad">{stored.error.message}</Notice>
      </div>
    );
  if (!stored.data) return <div className="progress" role="progressbar" aria-label="Loading the job" />;
  return <Planner key={stored.data.version} stored={stored.data} />;
}

function Planner({ stored: { job, rowId, version } }: { stored: StoredJob }) {
  const day = job.day ?? USUAL_DAY;
  const [plan, setPlan] = useState(day.plan);
  const [counted, setCounted] = useState(countedOf(job));
  const [extension, setExtension] = useState(job.question.extension === 'declared');
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) => ask('PATCH', `/jobs/${rowId}`, edit));
  const wish = useMemo(
    () => ({ ...planWishOf({ ...job, day: { ...day, plan } }), counted }),
    [job, day, plan, counted],
  );
  const plans = useMemo(() => comparePlans(wish), [wish]);
  const matters = job.question.meaningfulGainPercent;
  const needed = useMemo(
    () => Object.fromEntries(plans.map((p) => [p.shape, pullsFor(p.shape, matters, wish)])),
    [plans, matters, wish],
  );
  const chosen = plans.find((p) => p.shape === plan.shape)!;
  const start = plan.startAt ? new Date(plan.startAt) : null;
  const startMin = start ? start.getHours() * 60 + start.getMinutes() : plan.openFromMin;
  const warnings = planWarnings(
    chosen,
    startMin,
    { fromMin: plan.openFromMin, untilMin: plan.openUntilMin },
    plan.forecastC,
    tolerance(job.method, 'airDriftC'),
  );
  const frozen = job.pulls.some((p) => p.status === 'counted');
  const save = () => {
    const { baselineSetup, candidateSetups, measure, text, windowRpm, partChangesIntakeTemperature } = job.question;
    const needsReturn = chosen.steps.some((s) => !job.setups.some((own) => own.id === s.setup));
    const returnId = chosen.steps.at(-1)!.setup;
    const setups = needsReturn
      ? [...job.setups, { ...newSetup(returnId, 'return check', baselineSetup), returnsTo: baselineSetup }]
      : job.setups;
    change.mutate({
      version,
      day: { plan: { ...plan, forecastC: plan.forecastC && [...plan.forecastC] } },
      ...(frozen
        ? {}
        : {
            question: {
              text: text || job.title,
              baselineSetup,
              candidateSetups: [...candidateSetups],
              measure,
              windowRpm: windowRpm && [...windowRpm],
              meaningfulGainPercent: matters,
              partChangesIntakeTemperature,
              plan: [...chosen.steps],
              extension: extension ? 'declared' : null,
            },
            ...(needsReturn ? { setups: setups.map(asDto) } : {}),
          }),
    });
  };
  const set = <K extends keyof typeof plan>(key: K, value: (typeof plan)[K]) => setPlan({ ...plan, [key]: value });
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-start gap-3">
        <div className="min-w-0 grow">
          <h1>Plan the day</h1>
          <p className="text-ink-2 mt-0.5">
            {job.vehicle.label}. {job.title}
          </p>
        </div>
        {day.plan.startAt && (
          <a className="btn" href={`/api/jobs/${rowId}/plan.ics`}>
            <CalendarDays size={15} aria-hidden />
            For the calendar
          </a>
        )}
        <button className="btn pri" onClick={save} disabled={change.isPending}>
          Save the plan
        </button>
      </div>
      {change.error && <Notice kind="bad">{change.error.message}</Notice>}
      {change.isSuccess && <Notice kind="plain">The plan is saved.</Notice>}
      {frozen && <Notice>Pulls already count: the order of setups is frozen. Times may still be changed.</Notice>}
      <fieldset className="grid gap-3 md:grid-cols-3">
        <legend className="sr-only">Shape of the day</legend>
        {plans.map((p) => (
          <label
            key={p.shape}
            className={`sheet card grid cursor-pointer gap-1 ${p.shape === plan.shape ? 'outline-2 outline-ink' : ''}`}
            data-shape={p.shape}
          >
            <span className="flex items-center gap-2 text-[14px] font-[650]">
              <input
                type="radio"
                name="shape"
                checked={p.shape === plan.shape}
                disabled={frozen}
                onChange={() => set('shape', p.shape)}
              />
              {p.label}
            </span>
            <span className="text-ink-2">{SAYS[p.shape]}</span>
            <span className="num text-[30px] leading-tight">
              {plain(p.findsPercent, 1)}{' '}
              <span className="text-ink-2 text-[13px] font-[450]">% found on 4 days of 5</span>
            </span>
            <span className="text-ink-2">
              {Math.floor(p.minutes / 60)} h {String(Math.round(p.minutes % 60)).padStart(2, '0')} min,{' '}
              {p.steps.map((s) => `${s.setup} ${s.settle}+${s.counted}`).join(', ')}
            </span>
            <span className={p.findsPercent <= matters ? 'text-ok font-[620]' : 'text-wait font-[620]'}>
              {p.findsPercent <= matters
                ? `Enough for the ${plain(matters, 1)} % that would matter.`
                : needed[p.shape]
                  ? `${needed[p.shape]} counted pulls a setup would find ${plain(matters, 1)} %.`
                  : `No number of pulls up to 12 finds ${plain(matters, 1)} % this way: more rounds or a steadier bay would.`}
            </span>
          </label>
        ))}
      </fieldset>
      {warnings.map((w) => (
        <Notice key={w}>{w}</Notice>
      ))}
      <section className="sheet card" aria-label="Time line">
        <h3>The day</h3>
        <DayTimeLine day={chosen} startMin={startMin} setups={job.setups} openUntilMin={plan.openUntilMin} />
      </section>
      <section className="sheet card grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
        <Field label="First pull at">
          <Input
            type="datetime-local"
            value={start ? local(start) : ''}
            onChange={(e) => set('startAt', e.target.value ? new Date(e.target.value).toISOString() : null)}
          />
        </Field>
        <NumberField label="Counted pulls a setup" value={counted} onChange={setCounted} least={2} most={12} />
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
        <label className="flex items-center gap-2 self-end pb-1.5 sm:col-span-2 lg:col-span-4">
          <input
            type="checkbox"
            checked={extension}
            disabled={frozen}
            onChange={(e) => setExtension(e.target.checked)}
          />
          Declare one extension now: if the plan leaves the question open, one more round may be added. Both looks then
          use 97 % intervals.
        </label>
      </section>
    </div>
  );
}

const SAYS: Record<PlanShape, string> = {
  return: 'The first setup goes back on at the end, so that the day’s own drift shows.',
  hold: 'Two rounds of each setup some 50 min apart; no refitting.',
  plain: 'The least: a wide interval, and the report says so.',
};

function countedOf(job: StoredJob['job']): number {
  return job.question.plan[0]?.counted ?? tolerance(job.method, 'countedPulls');
}

function asDto(s: StoredJob['job']['setups'][number]) {
  const { id, label, parentId, returnsTo, changes, state, closedCourseOnly } = s;
  return { id, label, parentId, returnsTo, changes, state: { ...state } as Record<string, string>, closedCourseOnly };
}

function local(date: Date): string {
  const two = (n: number) => String(n).padStart(2, '0');
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}T${two(date.getHours())}:${two(date.getMinutes())}`;
}

function NumberField({
  label,
  value,
  onChange,
  least,
  most,
}: {
  label: string;
  value: number | null;
  onChange: (value: number) => void;
  least: number;
  most: number;
}) {
  return (
    <Field label={label}>
      <Input
        type="number"
        min={least}
        max={most}
        value={value ?? ''}
        onChange={(e) => {
          const next = e.target.valueAsNumber;
          if (Number.isFinite(next)) onChange(Math.min(most, Math.max(least, next)));
        }}
      />
    </Field>
  );
}

function TimeField({ label, value, onChange }: { label: string; value: number; onChange: (minutes: number) => void }) {
  const text = `${String(Math.floor(value / 60)).padStart(2, '0')}:${String(value % 60).padStart(2, '0')}`;
  return (
    <Field label={label}>
      <Input
        type="time"
        value={text}
        onChange={(e) => {
          const [h, m] = e.target.value.split(':').map(Number);
          if (h !== undefined && m !== undefined && Number.isFinite(h + m)) onChange(h * 60 + m);
        }}
      />
    </Field>
  );
}
