import {
  channelWords,
  HAND_MOMENTS,
  handReadingProblem,
  pullsInOrder,
  type HandMoment,
  type Setup,
} from '@prandel/core';
import { channelName } from '@prandel/presentation';
import { Gauge, Plus } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useState, type ClipboardEvent, type KeyboardEvent } from 'react';
import { ask, type Schemas, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import {
  cellOf,
  changedReadings,
  gaugesOf,
  numberIn,
  pastedBlock,
  type Cells,
  type Gauge as GaugeOf,
} from './gaugeCells.ts';

/** What may be read off where no sensor recorded it. */
const GAUGES = [
  ...['oil_c', 'oil_bar', 'coolant_c', 'gearbox_c', 'intake_c', 'charge_in_c', 'charge_c', 'ambient_c', 'exhaust_c'],
  ...['inlet_vacuum_kpa', 'manifold_kpa', 'fuel_kpa', 'lambda', 'ignition_deg'],
];
const MOMENTS: Readonly<Record<HandMoment, string>> = { start: 'start', peak: 'highest', end: 'end' };

/** Gauges read by hand, pull by pull: typed like a sheet, or pasted from one. What a sensor recorded is not asked for. */
export function GaugeGrid({ setup, stored }: { setup: Setup; stored: StoredJob }) {
  const [open, setOpen] = useState(false);
  const own = stored.job.pulls.filter((p) => p.setupId === setup.id);
  if (own.length === 0) return null;
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <button className="btn sm" aria-label={`Gauges of setup ${setup.id}`}>
          <Gauge size={13} aria-hidden />
          Gauges
        </button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="dialog !max-w-[900px]" aria-describedby="gauge-how">
          <Dialog.Title asChild>
            <h2>Gauges read by hand, setup {setup.id}</h2>
          </Dialog.Title>
          <p id="gauge-how" className="text-ink-2">
            Type like in a sheet: Enter goes down, Tab to the right. A block of a spreadsheet can be pasted into any
            cell. An empty cell is a gauge that nobody read.
          </p>
          <Grid setup={setup} stored={stored} onDone={() => setOpen(false)} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Grid({ setup, stored: { job, rowId }, onDone }: { setup: Setup; stored: StoredJob; onDone: () => void }) {
  const pulls = pullsInOrder(job.pulls.filter((p) => p.setupId === setup.id));
  const pullIds = pulls.map((p) => p.id);
  const before = (job.readings ?? []).filter((r) => pullIds.includes(r.pullId));
  const [outside, setOutside] = useState(0);
  const [columns, setColumns] = useState<readonly GaugeOf[]>(() => gaugesOf(job.readings ?? []));
  const [cells, setCells] = useState<Cells>(() => new Map(before.map((r) => [cellOf(r.pullId, r), String(r.value)])));
  const keep = useJobChange<Schemas['GaugeDto'][]>(rowId, (readings) =>
    ask('post', '/api/jobs/{id}/gauges', { params: { path: { id: rowId } }, body: { readings } }),
  );
  const put = (changes: readonly (readonly [string, string])[]) => setCells(new Map([...cells, ...changes]));
  const wrong = (pullId: string, column: GaugeOf): string | null => {
    const text = cells.get(cellOf(pullId, column)) ?? '';
    if (text.trim() === '') return null;
    const value = numberIn(text);
    return Number.isFinite(value) ? handReadingProblem({ pullId, ...column, value }) : `“${text}” is no number`;
  };
  const problems = pulls.flatMap((p, i) =>
    columns.flatMap((c) => {
      const why = wrong(p.id, c);
      return why ? [`${setup.id}·${i + 1}: ${why}.`] : [];
    }),
  );
  const paste = (row: number, column: number) => (e: ClipboardEvent<HTMLInputElement>) => {
    const block = pastedBlock(e.clipboardData.getData('text'), { row, column }, pullIds, columns);
    if (!block) return;
    e.preventDefault();
    put(block.cells);
    setOutside(block.outside);
  };
  const move = (row: number, column: number) => (e: KeyboardEvent<HTMLInputElement>) => {
    const step = { Enter: 1, ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (step === undefined) return;
    e.preventDefault();
    const table = e.currentTarget.closest('table');
    table?.querySelector<HTMLInputElement>(`input[data-cell="${row + step} ${column}"]`)?.focus();
  };
  const save = () => {
    const readings = changedReadings(before, cells, pullIds, columns);
    if (readings.length === 0) return onDone();
    keep.mutate(readings, { onSuccess: onDone });
  };
  return (
    <div className="grid gap-3">
      <div className="overflow-auto" tabIndex={0} role="group" aria-label="Readings">
        <table className="table">
          <thead>
            <tr>
              <th>Pull</th>
              {columns.map((c) => (
                <th key={cellOf('', c)}>
                  {channelName(c.channel)}, {MOMENTS[c.moment]}
                  <span className="text-ink-3 block font-[450]">{channelWords(c.channel).unit}</span>
                </th>
              ))}
              <th>
                <AddColumn taken={columns} onAdd={(c) => setColumns([...columns, c])} />
              </th>
            </tr>
          </thead>
          <tbody>
            {pulls.map((p, row) => (
              <tr key={p.id}>
                <td className="font-[620] whitespace-nowrap">
                  {setup.id}·{row + 1}
                </td>
                {columns.map((c, column) => (
                  <td key={cellOf('', c)}>
                    <input
                      className={`input num !min-h-[30px] !w-[104px] ${wrong(p.id, c) ? '!border-act' : ''}`}
                      inputMode="decimal"
                      data-cell={`${row} ${column}`}
                      aria-label={`${channelName(c.channel)}, ${MOMENTS[c.moment]}, ${setup.id}·${row + 1}`}
                      aria-invalid={wrong(p.id, c) !== null}
                      value={cells.get(cellOf(p.id, c)) ?? ''}
                      onChange={(e) => put([[cellOf(p.id, c), e.target.value]])}
                      onPaste={paste(row, column)}
                      onKeyDown={move(row, column)}
                    />
                  </td>
                ))}
                <td />
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {outside > 0 && (
        <Notice>
          {outside === 1 ? 'One value' : `${outside} values`} of the block lay beside the grid and were left out. Add
          the gauges first, or paste further up.
        </Notice>
      )}
      {problems.length > 0 && <Notice kind="bad">{problems.slice(0, 3).join(' ')}</Notice>}
      {keep.error && <Notice kind="bad">{keep.error.message}</Notice>}
      <div className="flex justify-end gap-2">
        <Dialog.Close className="btn">Cancel</Dialog.Close>
        <button className="btn pri" disabled={problems.length > 0 || keep.isPending} onClick={save}>
          Keep the readings
        </button>
      </div>
    </div>
  );
}

function AddColumn({ taken, onAdd }: { taken: readonly GaugeOf[]; onAdd: (column: GaugeOf) => void }) {
  const [channel, setChannel] = useState('oil_bar');
  const [moment, setMoment] = useState<HandMoment>('peak');
  const known = taken.some((c) => c.channel === channel && c.moment === moment);
  return (
    <span className="flex items-center gap-1.5 font-[450]">
      <select
        className="input !min-h-[28px] !w-auto !py-0.5"
        aria-label="Gauge to add"
        value={channel}
        onChange={(e) => setChannel(e.target.value)}
      >
        {GAUGES.map((c) => (
          <option key={c} value={c}>
            {channelName(c)}
          </option>
        ))}
      </select>
      <select
        className="input !min-h-[28px] !w-auto !py-0.5"
        aria-label="When it is read"
        value={moment}
        onChange={(e) => setMoment(e.target.value as HandMoment)}
      >
        {HAND_MOMENTS.map((m) => (
          <option key={m} value={m}>
            {MOMENTS[m]}
          </option>
        ))}
      </select>
      <button
        type="button"
        className="btn sm"
        aria-label="Add the gauge"
        disabled={known}
        onClick={() => onAdd({ channel, moment })}
      >
        <Plus size={14} aria-hidden />
      </button>
    </span>
  );
}
