import { Field, Input } from '../../parts/Field.tsx';
import type { Schemas } from '../../api/client.ts';

import type { RoundForm } from './roundForm.ts';

/** Asks for the state of the numbers, settle pulls, gear and weather of the round. */
export function RoundFields({
  value,
  onChange,
  pulls,
  columns,
}: {
  value: RoundForm;
  onChange: (form: RoundForm) => void;
  pulls: number;
  columns: Schemas['ColumnMappingDto'][];
}) {
  const set = (patch: Partial<RoundForm>) => onChange({ ...value, ...patch });
  const has = (role: string) => columns.some((c) => c.role === role);
  const missing = (role: string) => (has(role) ? 'In the file.' : 'Not in the file.');
  return (
    <section className="sheet card grid gap-3" aria-label="About the round">
      <h2>About these {pulls} pulls</h2>
      <fieldset className="grid gap-2">
        <legend className="mb-1 font-[620]">Are the numbers in the file already weather-corrected or scaled?</legend>
        <div className="flex flex-wrap gap-x-5 gap-y-2">
          {(
            [
              ['uncorrected', 'No, as measured'],
              ['corrected', 'Corrected'],
              ['scaled', 'Scaled'],
              ['unknown', 'Nobody knows'],
            ] as const
          ).map(([key, words]) => (
            <label key={key} className="flex min-h-[28px] items-center gap-2">
              <input type="radio" name="state" checked={value.state === key} onChange={() => set({ state: key })} />
              {words}
            </label>
          ))}
        </div>
        {(value.state === 'corrected' || value.state === 'scaled') && (
          <div className="grid max-w-[520px] grid-cols-2 gap-3">
            {value.state === 'corrected' && (
              <Field label="By which standard">
                <select className="input" value={value.standard} onChange={(e) => set({ standard: e.target.value })}>
                  <option value="sae-j1349">SAE J1349</option>
                  <option value="sae-j607">Older 60 °F standard</option>
                  <option value="iso-1585-si">ISO 1585</option>
                  <option value="din-70020">DIN 70020</option>
                </select>
              </Field>
            )}
            <Field label="Printed factor" hint="It is divided out, so that nothing is corrected twice.">
              <Input inputMode="decimal" value={value.factor} onChange={(e) => set({ factor: e.target.value })} />
            </Field>
          </div>
        )}
        {value.state === 'unknown' && (
          <p className="text-wait">The numbers will be compared as they are, and only with other unknown ones.</p>
        )}
      </fieldset>
      <div className="grid grid-cols-2 gap-3 sm:grid-cols-5">
        <Field label="Settle pulls at the start">
          <Input
            inputMode="numeric"
            value={value.settle}
            onChange={(e) => set({ settle: e.target.value.replace(/\D/g, '') })}
          />
        </Field>
        <Field label="Gear">
          <Input value={value.gear} onChange={(e) => set({ gear: e.target.value })} />
        </Field>
        <Field label="Station pressure, hPa" hint={missing('stationPressure')}>
          <Input inputMode="decimal" value={value.pressure} onChange={(e) => set({ pressure: e.target.value })} />
        </Field>
        <Field label="Air in the bay, °C" hint={missing('bayAir')}>
          <Input inputMode="decimal" value={value.air} onChange={(e) => set({ air: e.target.value })} />
        </Field>
        <Field label="Humidity, %" hint={missing('humidity')}>
          <Input inputMode="decimal" value={value.humidity} onChange={(e) => set({ humidity: e.target.value })} />
        </Field>
      </div>
    </section>
  );
}
