import { profileFromLog, USE_PRESETS, USE_STEP_RPM, useProblem, type Job, type UseProfile } from '@prandel/core';
import { useRef, useState } from 'react';
import { ask, type Schemas } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import { Changeable, For } from '../../parts/May.tsx';

/** Columns of a log by their headings. Judgement. */
const RPM = /\b(rpm|engine.?speed|n_?mot|drehzahl)\b/i;
const LOAD = /throttle|pedal|tps|drosselklappe/i;

/** A log as CSV: engine speed, and how far the throttle was open where it says so. @throws Error in words */
async function profileOfFile(file: File): Promise<UseProfile> {
  const { parse } = await import('papaparse');
  const { data, meta } = parse<Record<string, string>>(await file.text(), { header: true, skipEmptyLines: true });
  const heads = meta.fields ?? [];
  const [rpm, load] = [heads.find((h) => RPM.test(h)), heads.find((h) => LOAD.test(h))];
  if (!rpm)
    throw new Error(
      `${file.name} has no column of engine speed (looked for rpm); its columns are ${heads.slice(0, 8).join(', ') || 'not named'}.`,
    );
  const value = (text: string | undefined) => Number((text ?? '').replace(meta.delimiter === ',' ? '' : ',', '.'));
  const open = load ? data.map((row) => value(row[load])) : null;
  const most = open ? Math.max(...open.filter(Number.isFinite)) : 1;
  // Per cent or a fraction.
  const throttle = open?.map((v) => (most > 1.5 ? v / 100 : v)) ?? null;
  const profile = profileFromLog(
    data.map((row) => value(row[rpm])),
    throttle,
    file.name.slice(0, 80),
  );
  if (!profile) throw new Error(`In ${file.name} nothing is at full load: no throttle over 80 %.`);
  return profile;
}

/** How the car is used: a preset, shares that somebody types, or counted from a log. */
export function UseFields({ rowId, job, version }: { rowId: string; job: Job; version: number }) {
  const [own, setOwn] = useState<UseProfile>(job.use ?? USE_PRESETS.street);
  const [failed, setFailed] = useState('');
  const file = useRef<HTMLInputElement>(null);
  const change = useJobChange<Schemas['JobEdit']>(rowId, (edit) =>
    ask('patch', '/api/jobs/{id}', { params: { path: { id: rowId } }, body: edit }),
  );
  const wrong = useProblem(own);
  const changed = JSON.stringify(own) !== JSON.stringify(job.use);
  const first = Math.min(...own.shares.map((s) => s.fromRpm), 2000);
  const last = Math.max(...own.shares.map((s) => s.fromRpm), 6500);
  const classes = Array.from({ length: (last - first) / USE_STEP_RPM + 1 }, (_, i) => first + i * USE_STEP_RPM);
  const shareAt = (rpm: number) => own.shares.find((s) => s.fromRpm === rpm)?.share ?? 0;
  const most = Math.max(...own.shares.map((s) => s.share), 0.01);
  const put = (fromRpm: number, text: string) => {
    const share = Number(text.replace(',', '.')) / 100;
    if (!(share >= 0 && share <= 1)) return;
    const rest = own.shares.filter((s) => s.fromRpm !== fromRpm);
    const shares = share > 0 ? [...rest, { fromRpm, share }] : rest;
    setOwn({ name: 'Own', shares: shares.sort((a, b) => a.fromRpm - b.fromRpm) });
  };
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    try {
      setOwn(await profileOfFile(chosen));
      setFailed('');
    } catch (error) {
      setFailed((error as Error).message);
    }
  };
  return (
    <Changeable className="grid gap-2">
      <div className="flex flex-wrap items-center gap-2">
        <div className="seg" role="group" aria-label="Use of the car">
          {Object.values(USE_PRESETS).map((preset) => (
            <button
              key={preset.name}
              type="button"
              aria-pressed={own.name === preset.name}
              onClick={() => setOwn(preset)}
            >
              {preset.name}
            </button>
          ))}
        </div>
        <button type="button" className="btn sm" onClick={() => file.current?.click()}>
          Count it from a log
        </button>
        <input
          ref={file}
          type="file"
          accept=".csv,.txt,text/csv"
          className="sr-only"
          aria-label="Log of the car"
          onChange={(e) => void take(e.target.files?.[0])}
        />
        <span className="text-ink-2 text-[12.5px]">
          {own.name}: share of the time at full load, per cent in each 500 rpm
        </span>
        <span className="grow" />
        <For role="technician">
          <button
            type="button"
            className="btn sm"
            disabled={!changed || wrong !== null || change.isPending}
            onClick={() =>
              change.mutate({ version, use: { name: own.name, shares: own.shares.map((s) => ({ ...s })) } })
            }
          >
            Save the use
          </button>
        </For>
      </div>
      <div className="flex flex-wrap items-end gap-1.5">
        {classes.map((rpm) => (
          <label key={rpm} className="grid w-[58px] justify-items-center text-[11px]">
            <span className="flex h-[44px] w-full items-end" aria-hidden>
              <span
                className="bg-ink-2 w-full rounded-t-[2px]"
                style={{ height: `${Math.round((100 * shareAt(rpm)) / most)}%` }}
              />
            </span>
            <input
              className="input !min-h-[26px] w-full !px-1 !py-0 text-center text-[12px]"
              inputMode="decimal"
              aria-label={`Share from ${rpm} rpm`}
              value={String(Math.round(1000 * shareAt(rpm)) / 10)}
              onChange={(e) => put(rpm, e.target.value)}
            />
            <span className="text-ink-2">{rpm}</span>
          </label>
        ))}
      </div>
      {wrong && <Notice kind="bad">{`${wrong[0]!.toUpperCase()}${wrong.slice(1)}.`}</Notice>}
      {failed && <Notice kind="bad">{failed}</Notice>}
      {change.error && <Notice kind="bad">{change.error.message}</Notice>}
    </Changeable>
  );
}
