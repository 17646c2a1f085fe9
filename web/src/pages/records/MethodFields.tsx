import { CORRECTION_IDS, CORRECTION_NAMES, DISAGREEMENTS, TOLERANCES, type CompressionIgnition } from '@prandel/core';
import { DieselFields } from '../../parts/DieselFields.tsx';
import { Field, Input } from '../../parts/Field.tsx';
import { valueAt } from './recordKinds.ts';

/** Every row of the tolerances and every matter in which the trade disagrees, as settings of a house method. */
export function MethodFields({
  fields,
  set,
}: {
  fields: Record<string, unknown>;
  set: (path: string, value: unknown) => void;
}) {
  const text = (path: string, usual: string) => {
    const value = valueAt(fields, path);
    return typeof value === 'string' ? value : usual;
  };
  const number = (path: string, usual: number) => {
    const value = valueAt(fields, path);
    return typeof value === 'number' ? value : usual;
  };
  return (
    <>
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="Correction standard">
          <select
            className="input"
            value={text('correction', 'sae-j1349')}
            onChange={(e) => set('correction', e.target.value)}
          >
            {CORRECTION_IDS.map((id) => (
              <option key={id} value={id}>
                {CORRECTION_NAMES[id]}
              </option>
            ))}
          </select>
        </Field>
        <Field label="Averaging width, rpm">
          <Input
            type="number"
            min={0}
            max={1000}
            value={number('averagingWidthRpm', 200)}
            onChange={(e) => set('averagingWidthRpm', e.target.valueAsNumber || 0)}
          />
        </Field>
      </div>
      {valueAt(fields, 'correction') === 'iso-1585-ci' && (
        <DieselFields
          value={(valueAt(fields, 'compressionIgnition') as CompressionIgnition | undefined) ?? null}
          onChange={(engine) => engine && set('compressionIgnition', engine)}
        />
      )}
      <h3>Tolerances</h3>
      <div className="grid gap-x-4 gap-y-2 sm:grid-cols-2">
        {Object.entries(TOLERANCES).map(([key, t]) => {
          const path = key === 'settlePulls' ? key : `gates.${key}`;
          return (
            <Field
              key={key}
              label={`${t.label}${t.unit ? `, ${t.unit}` : ''}`}
              hint={`Usual ${t.usual}; from ${t.least} to ${t.most}.`}
            >
              <Input
                type="number"
                step="any"
                min={t.least}
                max={t.most}
                value={number(path, t.usual)}
                onChange={(e) => Number.isFinite(e.target.valueAsNumber) && set(path, e.target.valueAsNumber)}
              />
            </Field>
          );
        })}
      </div>
      <h3>Where practitioners disagree</h3>
      <div className="grid gap-x-4 gap-y-2 sm:grid-cols-2">
        {Object.entries(DISAGREEMENTS).map(([key, { label, schools }]) => (
          <Field key={key} label={label}>
            <select
              className="input"
              value={text(`schools.${key}`, Object.keys(schools)[0]!)}
              onChange={(e) => set(`schools.${key}`, e.target.value)}
            >
              {Object.entries(schools).map(([id, words]) => (
                <option key={id} value={id}>
                  {words}
                </option>
              ))}
            </select>
          </Field>
        ))}
      </div>
    </>
  );
}
