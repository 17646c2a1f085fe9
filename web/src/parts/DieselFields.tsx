import type { CompressionIgnition } from '@prandel/core';
import { useState } from 'react';
import { Field } from './Field.tsx';

const numberOf = (text: string) => (text.trim() === '' ? NaN : Number(text.replace(',', '.')));

/** What the standard for compression ignition needs of an engine; `null` while some of it is missing. */
export function DieselFields({
  value,
  onChange,
}: {
  value: CompressionIgnition | null;
  onChange: (engine: CompressionIgnition | null) => void;
}) {
  const [turbocharged, setTurbo] = useState(value?.turbocharged ?? true);
  const [fuel, setFuel] = useState(value ? String(value.fuelMgPerLitreCycle) : '');
  const [boost, setBoost] = useState(value ? String(value.boostPressureRatio) : '');
  const tell = (turbo: boolean, f: string, b: string) => {
    const [fuelMgPerLitreCycle, boostPressureRatio] = [numberOf(f), numberOf(b)];
    const whole =
      fuelMgPerLitreCycle >= 1 && fuelMgPerLitreCycle <= 200 && boostPressureRatio >= 1 && boostPressureRatio <= 6;
    onChange(whole ? { turbocharged: turbo, fuelMgPerLitreCycle, boostPressureRatio } : null);
  };
  return (
    <fieldset className="grid gap-3 sm:grid-cols-3">
      <legend className="mb-1 font-[620]">ISO 1585 for compression ignition needs of the engine</legend>
      <label className="flex min-h-[28px] items-center gap-2 self-end">
        <input
          type="checkbox"
          checked={turbocharged}
          onChange={(e) => {
            setTurbo(e.target.checked);
            tell(e.target.checked, fuel, boost);
          }}
        />
        Turbocharged
      </label>
      <Field label="Fuel per litre and cycle, mg" hint="From 1 to 200.">
        <input
          className="input"
          inputMode="decimal"
          value={fuel}
          onChange={(e) => {
            setFuel(e.target.value);
            tell(turbocharged, e.target.value, boost);
          }}
        />
      </Field>
      <Field label="Boost pressure ratio" hint="1 without a charger.">
        <input
          className="input"
          inputMode="decimal"
          value={boost}
          onChange={(e) => {
            setBoost(e.target.value);
            tell(turbocharged, fuel, e.target.value);
          }}
        />
      </Field>
    </fieldset>
  );
}
