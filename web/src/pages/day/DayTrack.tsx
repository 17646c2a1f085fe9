import {
  DndContext,
  pointerWithin,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import { setupStyles } from '@prandel/presentation';
import type { Setup } from '@prandel/core';
import { useEffect, useRef, type CSSProperties } from 'react';
import { Badge } from '../../parts/marks.tsx';
import { roundsOf, type Day, type DayRow } from './dayState.ts';
import './day.css';

const GAP_PX = 58;
const TICK_PX = 26;
/** A pull is drawn as dragged after so many pixels: a click is a click. */
const DRAG_AFTER_PX = 4;

interface TrackProps {
  readonly day: Day;
  readonly setups: readonly Setup[];
  readonly selected: number | null;
  readonly nameOf: (place: number) => string;
  readonly clock: (ms: number) => string;
  readonly onSelect: (place: number) => void;
  readonly onSetup: (places: readonly number[], setupId: string) => void;
}

const STATUS = { counted: 'counted', settle: 'settle', 'set-aside': 'set aside', 'left-out': 'left out' } as const;

/**
 * The day: a lane a setup, a tick a pull in the order of time, a block a round. Ticks and rounds are dragged from lane to lane; what the plan
 * guessed is outlined, what somebody or a file said is filled.
 */
export function DayTrack({ day, setups, selected, nameOf, clock, onSelect, onSetup }: TrackProps) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: DRAG_AFTER_PX } }));
  const rounds = roundsOf(day);
  const firsts = new Map(rounds.map((round, r) => [round[0]!.place, r]));
  const columns = day
    .map((row, i) => (i > 0 && firsts.has(row.place) ? `${GAP_PX}px ${TICK_PX}px` : `${TICK_PX}px`))
    .join(' ');
  let column = 1;
  const place = new Map<number, number>();
  for (const [i, row] of day.entries()) {
    if (i > 0 && firsts.has(row.place)) column += 1;
    place.set(row.place, column);
    column += 1;
  }
  const drop = ({ active, over }: DragEndEvent) => {
    const places = (active.data.current as { places: number[] } | undefined)?.places;
    if (over && places) onSetup(places, String(over.id));
  };
  const style: CSSProperties = {
    gridTemplateColumns: `116px ${columns}`,
    gridTemplateRows: `22px repeat(${setups.length}, 52px) 20px`,
  };
  return (
    <DndContext sensors={sensors} collisionDetection={pointerWithin} onDragEnd={drop}>
      <div className="overflow-x-auto" role="group" aria-label="Day track">
        <div className="dayGrid" style={style}>
          {setups.map((setup, lane) => (
            <Lane key={setup.id} setup={setup} setups={setups} row={lane + 2} />
          ))}
          {rounds.map((round, r) => (
            <Round
              key={round[0]!.place}
              {...{ round, setups, clock }}
              number={r + 1}
              from={place.get(round[0]!.place)! + 1}
              to={place.get(round.at(-1)!.place)! + 2}
              lane={setups.findIndex((s) => s.id === round[0]!.setupId) + 2}
              bottom={setups.length + 2}
            />
          ))}
          {rounds.slice(1).map((round, r) => (
            <Pause
              key={round[0]!.place}
              column={place.get(round[0]!.place)!}
              before={rounds[r]!.at(-1)!}
              after={round[0]!}
            />
          ))}
          {day.map((row) => (
            <Tick
              key={row.place}
              {...{ row, setups, onSelect }}
              column={place.get(row.place)! + 1}
              lane={setups.findIndex((s) => s.id === row.setupId) + 2}
              selected={selected === row.place}
              label={`${nameOf(row.place)}${row.startedMs === null ? '' : `, ${clock(row.startedMs)}`}, setup ${row.setupId}, ${STATUS[row.status]}`}
            />
          ))}
        </div>
      </div>
    </DndContext>
  );
}

function Lane({ setup, setups, row }: { setup: Setup; setups: readonly Setup[]; row: number }) {
  const { setNodeRef, isOver } = useDroppable({ id: setup.id });
  return (
    <>
      <div className="dayName" style={{ gridRow: row }}>
        <Badge id={setup.id} setups={setups} />
        <span>{setup.label}</span>
      </div>
      <div ref={setNodeRef} className="dayLane" data-over={isOver} data-setup={setup.id} style={{ gridRow: row }} />
    </>
  );
}

function Round({
  round,
  number,
  setups,
  clock,
  from,
  to,
  lane,
  bottom,
}: {
  round: readonly DayRow[];
  number: number;
  setups: readonly Setup[];
  clock: (ms: number) => string;
  from: number;
  to: number;
  lane: number;
  bottom: number;
}) {
  const id = `round ${round[0]!.place}`;
  const { setNodeRef, listeners, attributes, transform } = useDraggable({
    id,
    data: { places: round.map((r) => r.place) },
  });
  const look = setupStyles(setups).get(round[0]!.setupId)!;
  const at = round[0]!.startedMs;
  const moved = transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined;
  return (
    <>
      <button
        ref={setNodeRef}
        {...listeners}
        {...attributes}
        className="dayRound"
        aria-label={`Round ${number}, ${round.length} pulls, setup ${round[0]!.setupId}: drag to another setup`}
        style={{ gridRow: 1, gridColumn: `${from} / ${to}`, transform: moved }}
      >
        {round.length > 2 ? `Round ${number}` : number}
      </button>
      <div
        className="dayBlock"
        style={{
          gridRow: lane,
          gridColumn: `${from} / ${to}`,
          borderColor: look.line,
          borderStyle: round.some((r) => r.told) ? 'solid' : 'dashed',
          background: `color-mix(in srgb, ${look.line} 13%, transparent)`,
        }}
      />
      {at !== null && (
        <span className="dayClock" style={{ gridRow: bottom, gridColumn: `${from} / span 2` }}>
          {clock(at)}
        </span>
      )}
    </>
  );
}

function Pause({ column, before, after }: { column: number; before: DayRow; after: DayRow }) {
  if (before.startedMs === null || after.startedMs === null) return null;
  const minutes = Math.round((after.startedMs - before.startedMs) / 60_000);
  return (
    <span className="dayPause" style={{ gridRow: 1, gridColumn: column }}>
      {minutes < 600 ? `${minutes} min` : 'next day'}
    </span>
  );
}

function Tick({
  row,
  setups,
  column,
  lane,
  selected,
  label,
  onSelect,
}: {
  row: DayRow;
  setups: readonly Setup[];
  column: number;
  lane: number;
  selected: boolean;
  label: string;
  onSelect: (place: number) => void;
}) {
  const { setNodeRef, listeners, attributes, transform, isDragging } = useDraggable({
    id: `pull ${row.place}`,
    data: { places: [row.place] },
  });
  const own = useRef<HTMLButtonElement | null>(null);
  useEffect(() => {
    if (selected) own.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [selected]);
  const look = setupStyles(setups).get(row.setupId)!;
  return (
    <button
      ref={(node) => {
        own.current = node;
        setNodeRef(node);
      }}
      {...listeners}
      {...attributes}
      className="dayTick"
      aria-pressed={selected}
      aria-label={label}
      data-place={row.place}
      onClick={() => onSelect(row.place)}
      style={{
        gridRow: lane,
        gridColumn: column,
        transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined,
        zIndex: isDragging ? 5 : 2,
      }}
    >
      <svg viewBox="0 0 24 40" width="24" height="40" aria-hidden>
        {row.status === 'counted' && <rect x="9" y="7" width="6" height="26" fill={look.line} />}
        {row.status === 'settle' && (
          <rect x="9" y="7" width="6" height="26" fill="var(--sheet)" stroke={look.line} strokeWidth="1.5" />
        )}
        {row.status === 'set-aside' && <path d="M6 11l12 18m0-18l-12 18" stroke={look.line} strokeWidth="2" />}
        {row.status === 'left-out' && (
          <path d="M12 7v26" stroke="var(--ink-3)" strokeWidth="1.6" strokeDasharray="2 3" />
        )}
        {row.asked && (
          <text x="12" y="25" textAnchor="middle" fontSize="15" fontWeight="700" fill="var(--wait)">
            ?
          </text>
        )}
      </svg>
    </button>
  );
}
