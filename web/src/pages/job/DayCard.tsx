import { plain } from '@prandel/charts';
import type { AbortLimit, Fitting } from '@prandel/core';
import { useState } from 'react';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';

const CHANNELS = [
  ['charge_c', 'air after the intercooler, °C'],
  ['coolant_c', 'coolant, °C'],
  ['oil_c', 'oil, °C'],
  ['oil_bar', 'oil pressure, bar'],
  ['exhaust_c', 'exhaust gas, °C'],
  ['engine_rpm', 'engine speed, rpm'],
] as const;

/** Papers of the day: who brought the car, the claim, what was fitted when, abort limits, and whether it can be undone. */
export function DayCard({ stored: { job, rowId, version } }: { stored: StoredJob }) {
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) => ask('PATCH', `/jobs/${rowId}`, edit));
  const [limit, setLimit] = useState<AbortLimit | null>(null);
  const day = job.day;
  if (!day) return null;
  const save = (more: NonNullable<Schemas['JobEdit']['day']>) => change.mutate({ version, day: more });
  const name = (channel: string) => CHANNELS.find(([key]) => key === channel)?.[1] ?? channel;
  return (
    <section className="sheet card grid gap-2" aria-label="The day">
      <h3>The day</h3>
      <dl className="text-ink-2 grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 text-[12.5px] [&_dd]:text-right [&_dd]:text-ink">
        {day.customer && (
          <>
            <dt>Customer</dt>
            <dd>{day.customer}</dd>
          </>
        )}
        {day.claim && (
          <>
            <dt>Claim</dt>
            <dd>{day.claim}</dd>
          </>
        )}
        {Object.entries(day.intake).map(([key, value]) => (
          <div key={key} className="contents">
            <dt>{key}</dt>
            <dd>{value}</dd>
          </div>
        ))}
        {day.modelCard.label && (
          <>
            <dt>Model card</dt>
            <dd>
              {day.modelCard.label}
              {day.modelCard.gear ? `, gear ${day.modelCard.gear}` : ''}
            </dd>
          </>
        )}
        <dt>Method</dt>
        <dd>{job.method.name ?? 'usual tolerances'}</dd>
      </dl>
      {day.fittings.length > 0 && (
        <ul className="grid gap-1 text-[12.5px]" aria-label="Fittings">
          {day.fittings.map((f) => (
            <li key={`${f.startedAt} ${version}`}>
              <FittingLine fitting={f} onSave={(own) => save({ fittings: [own] })} />
            </li>
          ))}
        </ul>
      )}
      <h3>Abort limits</h3>
      <ul className="grid gap-0.5 text-[12.5px]">
        {day.abortLimits.map((l, i) => (
          <li key={`${l.channel} ${l.side}`} className="flex items-center gap-2">
            <span className="grow">
              Stop when {name(l.channel)} is {l.side} {plain(l.stop, 1)}
              {l.warn === null ? '' : `, warn at ${plain(l.warn, 1)}`}
            </span>
            <button className="btn sm" onClick={() => save({ abortLimits: day.abortLimits.filter((_, k) => k !== i) })}>
              Disarm
            </button>
          </li>
        ))}
        {day.abortLimits.length === 0 && <li className="text-ink-2">None armed.</li>}
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
              {CHANNELS.map(([key, words]) => (
                <option key={key} value={key}>
                  {words}
                </option>
              ))}
            </select>
          </Field>
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

const clock = (at: string) => new Date(at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });

/** A fitting as it was clocked; its words follow at the desk. */
function FittingLine({ fitting: f, onSave }: { fitting: Fitting; onSave: (words: Schemas['FittingDto']) => void }) {
  const [open, setOpen] = useState(false);
  const [words, setWords] = useState({
    changed: f.changed,
    disturbed: f.disturbed,
    parts: f.parts,
    cost: f.cost,
    notes: f.notes,
  });
  const text = (label: string, key: 'changed' | 'disturbed' | 'parts' | 'notes') => (
    <Field label={label}>
      <Input value={words[key]} onChange={(e) => setWords({ ...words, [key]: e.target.value })} />
    </Field>
  );
  return (
    <>
      <div className="flex items-baseline gap-2">
        <span className="grow">
          <b>{f.setup}</b> fitted {clock(f.startedAt)}
          {f.stoppedAt
            ? `–${clock(f.stoppedAt)}, ${Math.round((Date.parse(f.stoppedAt) - Date.parse(f.startedAt)) / 60_000)} min`
            : ', the clock runs'}
          , by {f.who}
          {f.disturbed ? `; also disturbed: ${f.disturbed}` : ''}
          {f.parts ? `; parts: ${f.parts}${f.cost === null ? '' : `, ${f.cost}`}` : ''} {f.notes}
        </span>
        <button className="btn sm" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Close' : 'Write'}
        </button>
      </div>
      {open && (
        <form
          className="mt-1 grid gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            onSave({ startedAt: f.startedAt, ...words });
          }}
        >
          {text('What was changed', 'changed')}
          {text('What else was disturbed', 'disturbed')}
          {text('Parts and adapters', 'parts')}
          <Field label="Cost">
            <Input
              type="number"
              min={0}
              step="any"
              value={words.cost ?? ''}
              onChange={(e) => setWords({ ...words, cost: e.target.value === '' ? null : e.target.valueAsNumber })}
            />
          </Field>
          {text('Notes', 'notes')}
          <button className="btn sm pri justify-self-end">Save</button>
        </form>
      )}
    </>
  );
}
