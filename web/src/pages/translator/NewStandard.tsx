import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { ask } from '../../api/client.ts';
import { Field, Notice } from '../../parts/Field.tsx';

const EMPTY = {
  name: '',
  kind: 'reference' as 'reference' | 'factor',
  c: '20',
  hpa: '1013.25',
  pressure: 'total' as 'dry' | 'total',
  eta: '1',
  factor: '',
};
const numberOf = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.')));

/** A standard of the shop's own: by its reference, or by a factor that a sheet prints. */
export function NewStandard({ onAdded }: { onAdded: () => unknown }) {
  const [form, setForm] = useState(EMPTY);
  const set = (patch: Partial<typeof EMPTY>) => setForm((f) => ({ ...f, ...patch }));
  const add = useMutation({
    mutationFn: () => {
      const { name, kind, c, hpa, pressure, eta, factor } = form;
      const body =
        kind === 'factor'
          ? { name, kind, factor: numberOf(factor) }
          : {
              name,
              kind,
              referenceC: numberOf(c),
              referenceHpa: numberOf(hpa),
              pressure,
              mechanicalEfficiency: numberOf(eta),
            };
      return ask('post', '/api/standards', { body });
    },
    onSuccess: () => {
      setForm(EMPTY);
      onAdded();
    },
  });
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate();
      }}
    >
      <div className="w-[180px]">
        <Field label="Name">
          <input
            className="input"
            value={form.name}
            onChange={(e) => set({ name: e.target.value })}
            placeholder="sheet of the neighbour"
          />
        </Field>
      </div>
      <Field label="Given by">
        <select className="input" value={form.kind} onChange={(e) => set({ kind: e.target.value as typeof form.kind })}>
          <option value="reference">its reference</option>
          <option value="factor">a printed factor</option>
        </select>
      </Field>
      {form.kind === 'factor' ? (
        <div className="w-[110px]">
          <Field label="Factor">
            <input
              className="input"
              inputMode="decimal"
              value={form.factor}
              onChange={(e) => set({ factor: e.target.value })}
            />
          </Field>
        </div>
      ) : (
        <>
          <div className="w-[90px]">
            <Field label="At, °C">
              <input
                className="input"
                inputMode="decimal"
                value={form.c}
                onChange={(e) => set({ c: e.target.value })}
              />
            </Field>
          </div>
          <div className="w-[100px]">
            <Field label="At, hPa">
              <input
                className="input"
                inputMode="decimal"
                value={form.hpa}
                onChange={(e) => set({ hpa: e.target.value })}
              />
            </Field>
          </div>
          <Field label="Pressure">
            <select
              className="input"
              value={form.pressure}
              onChange={(e) => set({ pressure: e.target.value as typeof form.pressure })}
            >
              <option value="total">total</option>
              <option value="dry">dry air</option>
            </select>
          </Field>
          <div className="w-[130px]">
            <Field label="Mechanical efficiency">
              <input
                className="input"
                inputMode="decimal"
                value={form.eta}
                onChange={(e) => set({ eta: e.target.value })}
              />
            </Field>
          </div>
        </>
      )}
      <button className="btn" disabled={add.isPending}>
        Save for the shop
      </button>
      {add.error && <Notice kind="bad">{add.error.message}</Notice>}
    </form>
  );
}
