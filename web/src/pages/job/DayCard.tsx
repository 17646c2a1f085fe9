import { plain, spansDays } from '@prandel/presentation';
import { armedLimits, channelWords, USUAL_DAY, type AbortLimit } from '@prandel/core';
import { useState, type FocusEvent } from 'react';
import { useForm } from 'react-hook-form';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { For } from '../../parts/May.tsx';
import { DayFacts, DayForm } from './DayForm.tsx';
import { FittingLine } from './FittingLine.tsx';
import { AirByHand } from './HandReadings.tsx';

const CHANNELS = ['charge_c', 'coolant_c', 'oil_c', 'oil_bar', 'exhaust_c', 'manifold_kpa', 'engine_rpm'] as const;

/** Papers of the day: who brought the car, the claim, what was fitted when, abort limits, and whether it can be undone. */
export function DayCard({ stored: { job, rowId, version } }: { stored: StoredJob }) {
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: edit }),
  );
  const [arming, setArming] = useState(false);
  const [editing, setEditing] = useState(false);
  const day = job.day ?? USUAL_DAY;
  const armed = armedLimits(job);
  const several = spansDays(
    [...job.pulls, ...day.fittings].map((one) => one.startedAt),
    job.timeZone,
  );
  const save = (more: NonNullable<Schemas['JobEdit']['day']>, onSuccess?: () => void) =>
    change.mutate({ version, day: more }, onSuccess ? { onSuccess } : {});
  return (
    <section className="sheet card grid gap-2" aria-label="The day">
      <h3>The day</h3>
      {editing ? (
        <DayForm
          job={job}
          pending={change.isPending}
          onCancel={() => setEditing(false)}
          onSave={(more) => save(more, () => setEditing(false))}
        />
      ) : (
        <DayFacts job={job} onEdit={() => setEditing(true)} />
      )}
      <AirByHand job={rowId} />
      {day.fittings.length > 0 && (
        <ul className="grid gap-1 text-[12.5px]" aria-label="Fittings">
          {day.fittings.map((f) => (
            <li key={[f.startedAt, f.changed, f.disturbed, f.parts, f.cost, f.notes].join(' ')}>
              <FittingLine
                job={rowId}
                zone={job.timeZone}
                severalDays={several}
                fitting={f}
                onSave={(own) => save({ fittings: [own] })}
              />
            </li>
          ))}
        </ul>
      )}
      <h3>Abort limits</h3>
      <ul className="grid gap-0.5 text-[12.5px]">
        {armed.map((l) => (
          <li key={`${l.channel} ${l.side}`} className="flex items-center gap-2">
            <span className="grow">
              {limitWords(l)}
              {l.from === 'job' ? '' : `. From the ${l.from}; a limit armed here takes its place.`}
            </span>
            {l.from === 'job' && (
              <button
                className="btn sm"
                onClick={() =>
                  save({
                    abortLimits: day.abortLimits.filter((own) => own.channel !== l.channel || own.side !== l.side),
                  })
                }
              >
                Disarm
              </button>
            )}
          </li>
        ))}
        {armed.length === 0 && <li className="text-ink-2">None armed.</li>}
      </ul>
      {arming ? (
        <LimitForm
          onCancel={() => setArming(false)}
          onArm={(limit) => {
            save({ abortLimits: [...day.abortLimits, limit] });
            setArming(false);
          }}
        />
      ) : (
        <button className="btn sm justify-self-start" onClick={() => setArming(true)}>
          Arm a limit
        </button>
      )}
      <For role="technician" else={day.cannotBeUndone && <p>Cannot be undone, because: {day.cannotBeUndone}</p>}>
        <CannotBeUndone
          key={version}
          value={day.cannotBeUndone}
          onSave={(cannotBeUndone) => save({ cannotBeUndone })}
        />
      </For>
      {change.error && <Notice kind="bad">{change.error.message}</Notice>}
    </section>
  );
}

function limitWords({ channel, side, stop, warn }: AbortLimit): string {
  const { label, unit } = channelWords(channel);
  const edge = (value: number) => `${plain(value, 1)}${unit ? ` ${unit}` : ''}`;
  return `${label}: stop ${side} ${edge(stop)}${warn === null ? '' : `, warn at ${edge(warn)}`}`;
}

interface LimitTyped {
  /** A usual channel, or empty for another one. */
  channel: string;
  other: string;
  side: AbortLimit['side'];
  warn: number | null;
  stop: number;
}

/** One limit to be armed. */
function LimitForm({ onArm, onCancel }: { onArm: (limit: AbortLimit) => void; onCancel: () => void }) {
  const { register, handleSubmit, watch } = useForm<LimitTyped>({
    defaultValues: { channel: 'charge_c', other: '', side: 'above', warn: 75, stop: 85 },
  });
  const send = handleSubmit(({ channel, other, side, warn, stop }) =>
    onArm({ channel: channel || other.trim(), side, warn, stop }),
  );
  return (
    <form className="grid grid-cols-2 gap-2" onSubmit={(e) => void send(e)}>
      <Field label="Channel">
        <select className="input" {...register('channel')}>
          {CHANNELS.map((key) => (
            <option key={key} value={key}>
              {name(key)}
            </option>
          ))}
          <option value="">another channel …</option>
        </select>
      </Field>
      {watch('channel') === '' && (
        <Field label="Channel as it is recorded" hint="Its unit is part of the name: gearbox_c, battery_v.">
          <Input required pattern="[a-z][a-z0-9_]*_[a-z]+" {...register('other')} />
        </Field>
      )}
      <Field label="Bad when it is">
        <select className="input" {...register('side')}>
          <option value="above">above</option>
          <option value="below">below</option>
        </select>
      </Field>
      <Field label="Warn at">
        <Input
          type="number"
          step="any"
          {...register('warn', { setValueAs: (v: unknown) => (v === '' || v === null ? null : Number(v)) })}
        />
      </Field>
      <Field label="Stop at">
        <Input type="number" step="any" required {...register('stop', { valueAsNumber: true })} />
      </Field>
      <div className="col-span-2 flex justify-end gap-2">
        <button type="button" className="btn sm" onClick={onCancel}>
          Cancel
        </button>
        <button className="btn sm pri">Arm it</button>
      </div>
    </form>
  );
}

/** What a channel is called, with its unit. */
function name(channel: string): string {
  const { label, unit } = channelWords(channel);
  return unit ? `${label}, ${unit}` : label;
}

function CannotBeUndone({ value, onSave }: { value: string | null; onSave: (value: string | null) => void }) {
  const { register } = useForm({ defaultValues: { because: value ?? '' } });
  return (
    <Field label="Cannot be undone, because" hint="Empty when the part can come off again for a return check.">
      <Input
        {...register('because', {
          onBlur: (e: FocusEvent<HTMLInputElement>) => {
            const text = e.target.value;
            if (text !== (value ?? '')) onSave(text || null);
          },
        })}
      />
    </Field>
  );
}
