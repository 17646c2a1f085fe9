import { plain, spansDays } from '@prandel/presentation';
import { armedLimits, channelWords, USUAL_DAY, type AbortLimit } from '@prandel/core';
import { useState } from 'react';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { DayFacts, DayForm } from './DayForm.tsx';
import { FittingLine } from './FittingLine.tsx';
import { AirByHand } from './HandReadings.tsx';

const CHANNELS = ['charge_c', 'coolant_c', 'oil_c', 'oil_bar', 'exhaust_c', 'manifold_kpa', 'engine_rpm'] as const;

/** Papers of the day: who brought the car, the claim, what was fitted when, abort limits, and whether it can be undone. */
export function DayCard({ stored: { job, rowId, version } }: { stored: StoredJob }) {
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: edit }),
  );
  const [limit, setLimit] = useState<AbortLimit | null>(null);
  const [editing, setEditing] = useState(false);
  const day = job.day ?? USUAL_DAY;
  const armed = armedLimits(job);
  const several = spansDays(
    [...job.pulls, ...day.fittings].map((one) => one.startedAt),
    job.timeZone,
  );
  const save = (more: NonNullable<Schemas['JobEdit']['day']>, onSuccess?: () => void) =>
    change.mutate({ version, day: more }, onSuccess ? { onSuccess } : {});
  const name = (channel: string) => {
    const { label, unit } = channelWords(channel);
    return unit ? `${label}, ${unit}` : label;
  };
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
      {limit ? (
        <form
          className="grid grid-cols-2 gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            save({ abortLimits: [...day.abortLimits, limit] });
            setLimit(null);
          }}
        >
          <Field label="Channel">
            <select
              className="input"
              value={limit.channel}
              onChange={(e) => setLimit({ ...limit, channel: e.target.value })}
            >
              {CHANNELS.map((key) => (
                <option key={key} value={key}>
                  {name(key)}
                </option>
              ))}
              <option value={isUsual(limit.channel) ? '' : limit.channel}>another channel …</option>
            </select>
          </Field>
          {!isUsual(limit.channel) && (
            <Field label="Channel as it is recorded" hint="Its unit is part of the name: gearbox_c, battery_v.">
              <Input
                required
                pattern="[a-z][a-z0-9_]*_[a-z]+"
                value={limit.channel}
                onChange={(e) => setLimit({ ...limit, channel: e.target.value })}
              />
            </Field>
          )}
          <Field label="Bad when it is">
            <select
              className="input"
              value={limit.side}
              onChange={(e) => setLimit({ ...limit, side: e.target.value as AbortLimit['side'] })}
            >
              <option value="above">above</option>
              <option value="below">below</option>
            </select>
          </Field>
          <Field label="Warn at">
            <Input
              type="number"
              step="any"
              value={limit.warn ?? ''}
              onChange={(e) => setLimit({ ...limit, warn: e.target.value === '' ? null : Number(e.target.value) })}
            />
          </Field>
          <Field label="Stop at">
            <Input
              type="number"
              step="any"
              required
              value={Number.isFinite(limit.stop) ? limit.stop : ''}
              onChange={(e) => setLimit({ ...limit, stop: e.target.valueAsNumber })}
            />
          </Field>
          <div className="col-span-2 flex justify-end gap-2">
            <button type="button" className="btn sm" onClick={() => setLimit(null)}>
              Cancel
            </button>
            <button className="btn sm pri">Arm it</button>
          </div>
        </form>
      ) : (
        <button
          className="btn sm justify-self-start"
          onClick={() => setLimit({ channel: 'charge_c', warn: 75, stop: 85, side: 'above' })}
        >
          Arm a limit
        </button>
      )}
      <CannotBeUndone key={version} value={day.cannotBeUndone} onSave={(cannotBeUndone) => save({ cannotBeUndone })} />
      {change.error && <Notice kind="bad">{change.error.message}</Notice>}
    </section>
  );
}

const isUsual = (channel: string) => CHANNELS.some((key) => key === channel);

function limitWords({ channel, side, stop, warn }: AbortLimit): string {
  const { label, unit } = channelWords(channel);
  const edge = (value: number) => `${plain(value, 1)}${unit ? ` ${unit}` : ''}`;
  return `${label}: stop ${side} ${edge(stop)}${warn === null ? '' : `, warn at ${edge(warn)}`}`;
}

function CannotBeUndone({ value, onSave }: { value: string | null; onSave: (value: string | null) => void }) {
  const [text, setText] = useState(value ?? '');
  return (
    <Field label="Cannot be undone, because" hint="Empty when the part can come off again for a return check.">
      <Input
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => text !== (value ?? '') && onSave(text || null)}
      />
    </Field>
  );
}
