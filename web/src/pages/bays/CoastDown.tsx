import { coastDown, type CoastDownFit } from '@prandel/core';
import { useMutation } from '@tanstack/react-query';
import { useRef } from 'react';
import { ask, bring, type Schemas } from '../../api/client.ts';
import { Notice } from '../../parts/Field.tsx';

/** Fits the loss of the empty rollers from a file, or from what the bay heard during the last two minutes. */
export function CoastDown({
  bay,
  inertia,
  onFit,
}: {
  bay: string | null;
  inertia: () => number | null;
  onFit: (loss: CoastDownFit['lossTorqueNm']) => void;
}) {
  const picker = useRef<HTMLInputElement>(null);
  const fit = useMutation({
    mutationFn: async (file: File | null) => {
      const form = new FormData();
      if (file) form.append('file', file);
      const heard = file
        ? await bring<Schemas['RollerTrace']>('/api/coast-down', form)
        : await ask('get', '/api/bays/{id}/rollers', { params: { path: { id: bay! } } });
      return coastDown(Float64Array.from(heard.timeS), Float64Array.from(heard.rollerRadS), inertia() ?? 0);
    },
    onSuccess: ({ lossTorqueNm }) => onFit(lossTorqueNm),
  });
  return (
    <div className="grid content-start gap-1.5" role="group" aria-label="Coast-down">
      <span className="text-[12.5px]">Coast-down of the empty rollers</span>
      <div className="flex flex-wrap gap-1.5">
        <button type="button" className="btn sm" onClick={() => picker.current?.click()} disabled={fit.isPending}>
          Fit from a file
        </button>
        {bay && (
          <button type="button" className="btn sm" onClick={() => fit.mutate(null)} disabled={fit.isPending}>
            Fit from the rollers now
          </button>
        )}
      </div>
      <input
        ref={picker}
        type="file"
        accept=".csv,.txt,text/csv"
        className="sr-only"
        tabIndex={-1}
        aria-label="Coast-down file"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) fit.mutate(file);
          e.target.value = '';
        }}
      />
      {fit.error && <Notice kind="bad">{fit.error.message}</Notice>}
      {fit.data && (
        <span className="text-ink-2 text-[11.5px]">
          Fitted from {fit.data.fromRadS.toFixed(0)} to {fit.data.toRadS.toFixed(0)} rad/s, within{' '}
          {fit.data.residualNm.toFixed(2)} N·m. Save the bay to keep it.
        </span>
      )}
    </div>
  );
}
