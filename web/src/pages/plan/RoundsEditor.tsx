import {
  DndContext,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import type { PlanStep, Setup } from '@prandel/core';
import { ChevronLeft, ChevronRight, GripVertical, Minus, Plus, X } from 'lucide-react';
import { useState } from 'react';
import { Badge } from '../../parts/marks.tsx';

/** Rounds in an order of one's own: dragged or moved by buttons, added, dropped, made longer or shorter. */
export function RoundsEditor({
  steps,
  setups,
  choices,
  settle,
  counted,
  onChange,
}: {
  steps: readonly PlanStep[];
  setups: readonly Setup[];
  /** What a round can be added of, the baseline first. */
  choices: readonly string[];
  settle: number;
  counted: number;
  onChange: (steps: PlanStep[]) => void;
}) {
  const [next, setNext] = useState(choices[0] ?? '');
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const moved = (from: number, to: number) => {
    if (to < 0 || to >= steps.length || from === to) return;
    const list = [...steps];
    const [own] = list.splice(from, 1);
    list.splice(to, 0, own!);
    onChange(list);
  };
  const put = (i: number, patch: Partial<PlanStep>) =>
    onChange(steps.map((s, k) => (k === i ? { ...s, ...patch } : s)));
  const end = ({ active, over }: DragEndEvent) => over && moved(Number(active.id), Number(over.id));
  return (
    <div className="grid gap-2">
      <DndContext sensors={sensors} onDragEnd={end}>
        <ol className="flex flex-wrap gap-1.5" aria-label="Rounds in order">
          {steps.map((step, i) => (
            <Round
              key={`${i} ${step.setup}`}
              i={i}
              step={step}
              last={steps.length - 1}
              setups={setups}
              onMove={(to) => moved(i, to)}
              onCount={(n) => put(i, { counted: Math.min(12, Math.max(1, n)) })}
              onDrop={() => onChange(steps.filter((_, k) => k !== i))}
            />
          ))}
        </ol>
      </DndContext>
      <div className="flex flex-wrap items-center gap-2">
        <select
          className="input w-auto"
          aria-label="Round to add"
          value={next}
          onChange={(e) => setNext(e.target.value)}
        >
          {choices.map((id) => (
            <option key={id} value={id}>
              {id} · {setups.find((s) => s.id === id)?.label ?? id}
            </option>
          ))}
        </select>
        <button type="button" className="btn sm" onClick={() => onChange([...steps, { setup: next, settle, counted }])}>
          <Plus size={14} aria-hidden /> Add a round
        </button>
      </div>
    </div>
  );
}

function Round({
  i,
  step,
  last,
  setups,
  onMove,
  onCount,
  onDrop,
}: {
  i: number;
  step: PlanStep;
  last: number;
  setups: readonly Setup[];
  onMove: (to: number) => void;
  onCount: (counted: number) => void;
  onDrop: () => void;
}) {
  const drag = useDraggable({ id: String(i) });
  const drop = useDroppable({ id: String(i) });
  const words = `round ${i + 1}, ${step.setup}`;
  const shift = drag.transform ? { translate: `${drag.transform.x}px ${drag.transform.y}px` } : undefined;
  return (
    <li
      ref={drop.setNodeRef}
      className={`rounded border bg-[var(--sheet)] ${drop.isOver ? 'border-ink outline-2 outline-ink' : 'border-[var(--ctl-line)]'}`}
      data-round={step.setup}
    >
      <div ref={drag.setNodeRef} className="grid gap-1 px-1.5 py-1" style={shift}>
        <div className="flex items-center gap-1">
          <span
            className="cursor-grab touch-none"
            {...drag.listeners}
            {...drag.attributes}
            aria-label={`Drag ${words}`}
          >
            <GripVertical size={14} aria-hidden />
          </span>
          <Badge id={step.setup} setups={setups} />
          <span className="text-ink-2 text-[12px]">
            {step.settle}+{step.counted}
          </span>
          <button
            type="button"
            className="btn sm !min-h-[24px] !px-1"
            aria-label={`Leave out ${words}`}
            onClick={onDrop}
          >
            <X size={13} aria-hidden />
          </button>
        </div>
        <div className="flex justify-center gap-0.5">
          <Small
            label={`Earlier: ${words}`}
            off={i === 0}
            onClick={() => onMove(i - 1)}
            icon={<ChevronLeft size={13} />}
          />
          <Small
            label={`Fewer pulls in ${words}`}
            off={step.counted <= 1}
            onClick={() => onCount(step.counted - 1)}
            icon={<Minus size={12} />}
          />
          <Small
            label={`More pulls in ${words}`}
            off={step.counted >= 12}
            onClick={() => onCount(step.counted + 1)}
            icon={<Plus size={12} />}
          />
          <Small
            label={`Later: ${words}`}
            off={i === last}
            onClick={() => onMove(i + 1)}
            icon={<ChevronRight size={13} />}
          />
        </div>
      </div>
    </li>
  );
}

function Small({
  label,
  off,
  onClick,
  icon,
}: {
  label: string;
  off: boolean;
  onClick: () => void;
  icon: React.ReactNode;
}) {
  return (
    <button
      type="button"
      className="btn sm !min-h-[24px] !min-w-[24px] !px-0.5"
      aria-label={label}
      disabled={off}
      onClick={onClick}
    >
      {icon}
    </button>
  );
}
