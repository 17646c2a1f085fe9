import { gearingProblem, type Gearing, type Job } from '@prandel/core';
import { useState } from 'react';
import { ask, type Schemas } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { Changeable, For } from '../../parts/May.tsx';

const FIELDS = [
  ['finalDrive', 'Final drive'],
  ['circumferenceM', 'Tyre, around, m'],
  ['limiterRpm', 'Limiter or shift, rpm'],
  ['shiftSeconds', 'Time of a shift, s'],
] as const;

const read = (text: string) => Number(text.trim().replace(',', '.'));

/** Ratios as somebody types them: first gear first, apart by spaces, semicolons or slashes. */
export function ratiosIn(text: string): number[] {
  return text
    .split(/[\s;/]+/)
    .filter(Boolean)
    .map(read);
}

/** The gears of the car; kept with the job and with the car on record. */
export function GearFields({ rowId, job, version }: { rowId: string; job: Job; version: number }) {
  const { gearing } = job;
  const [typed, setTyped] = useState(() => ({
    ratios: gearing?.ratios.join(' ') ?? '',
    finalDrive: String(gearing?.finalDrive ?? ''),
    circumferenceM: String(gearing?.circumferenceM ?? ''),
    limiterRpm: String(gearing?.limiterRpm ?? ''),
    shiftSeconds: String(gearing?.shiftSeconds ?? 0.4),
  }));
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: edit }),
  );
  const own: Gearing = {
    ratios: ratiosIn(typed.ratios),
    ...{ finalDrive: read(typed.finalDrive), circumferenceM: read(typed.circumferenceM) },
    ...{ limiterRpm: read(typed.limiterRpm), shiftSeconds: read(typed.shiftSeconds) },
  };
  const wrong = typed.ratios.trim() === '' ? null : gearingProblem(own);
  const changed = JSON.stringify(own) !== JSON.stringify(gearing);
  return (
    <Changeable className="grid gap-2">
      <div className="grid items-end gap-2.5 sm:grid-cols-2 lg:grid-cols-[minmax(0,2fr)_repeat(4,minmax(0,1fr))_auto]">
        <Field label="Ratios, first gear first">
          <Input
            placeholder="3.20 2.10 1.55 1.24 1.08"
            value={typed.ratios}
            onChange={(e) => setTyped({ ...typed, ratios: e.target.value })}
          />
        </Field>
        {FIELDS.map(([key, label]) => (
          <Field key={key} label={label}>
            <Input
              inputMode="decimal"
              value={typed[key]}
              onChange={(e) => setTyped({ ...typed, [key]: e.target.value })}
            />
          </Field>
        ))}
        <For role="technician">
          <button
            type="button"
            className="btn"
            disabled={!changed || wrong !== null || typed.ratios.trim() === '' || change.isPending}
            onClick={() => change.mutate({ version, gearing: { ...own, ratios: [...own.ratios] } })}
          >
            Save the gears
          </button>
        </For>
      </div>
      {wrong && <Notice kind="bad">{`${wrong[0]!.toUpperCase()}${wrong.slice(1)}.`}</Notice>}
      {change.error && <Notice kind="bad">{change.error.message}</Notice>}
    </Changeable>
  );
}
