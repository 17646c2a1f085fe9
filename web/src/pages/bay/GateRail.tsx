import { gateFindingWords, plain, USUAL_UNITS, type ShownUnits } from '@prandel/presentation';
import { fromSi, type GateFinding, type GateRow } from '@prandel/core';
import { Check, Hourglass, PlugZap, TriangleAlert, Wrench } from 'lucide-react';
import { inMinutes } from './bayStyles.ts';

const DIGITS: Record<string, number> = { factor: 1, altitude: 0, coolantC: 0, oilC: 0 };

/** One row per condition; a place always means the same one. Inside rows stay quiet, failing ones say what to do. */
export function GateRail({
  rows,
  units = USUAL_UNITS,
  quiet = false,
}: {
  rows: readonly GateRow[];
  units?: ShownUnits;
  /** Nobody is about to pull: nothing is held back. */
  quiet?: boolean;
}) {
  return (
    <section className="rail" aria-label="Gates" data-quiet={quiet}>
      {rows.map((row) => (
        <div key={row.key} className="rail-row" data-gate={row.state}>
          <span className="rail-name">{row.label}</span>
          <span className="rail-value num">{valueOf(row, units)}</span>
          <Bullet row={row} />
          <Sign row={row} />
          <span className="rail-words">{wordsOf(row, units)}</span>
        </div>
      ))}
    </section>
  );
}

function valueOf({ key, value, unit, slot }: GateRow, units: ShownUnits): string {
  if (slot) return '';
  if (value === null) return '–';
  if (unit === 'min') return `${Math.floor(value)}:${String(Math.floor((value * 60) % 60)).padStart(2, '0')}`;
  if (unit === '°C') return `${plain(fromSi(value, units.temperature), DIGITS[key] ?? 1)} ${units.temperature}`;
  const text = Math.abs(value).toFixed(DIGITS[key] ?? 1);
  const sign = key === 'factor' ? (value < 0 && Number(text) !== 0 ? '\u2212' : '+') : value < 0 ? '\u2212' : '';
  return `${sign}${text} ${unit}`;
}

/** Short enough to be read across the bay. */
function wordsOf({ state, finding, label, waitS }: GateRow, units: ShownUnits): string {
  if (isReading(finding)) return 'Reading it';
  if (finding.code === 'too-warm' && finding.recovery === 'not-on-its-own') return 'Not by itself: fan?';
  if (finding.code === 'long-pause' || finding.code === 'pair-hold-over') return 'Long pause';
  return state === 'outside' && waitS !== null
    ? `Wait about ${inMinutes(waitS)}`
    : gateFindingWords(finding, label, units);
}

/** The recovery has not said enough yet for a forecast. */
function isReading(finding: GateFinding): boolean {
  return finding.code === 'too-warm' && finding.recovery === 'reading';
}

function Sign({ row: { state, waitS, finding } }: { row: GateRow }) {
  const size = 24;
  if (state === 'inside' || state === 'no-baseline') return <Check size={size} aria-hidden className="text-ink-3" />;
  if (state === 'warn') return <TriangleAlert size={size} aria-hidden />;
  if (state === 'no-signal') return <PlugZap size={size} aria-hidden />;
  if (state === 'differs' || (waitS === null && !isReading(finding))) return <Wrench size={size} aria-hidden />;
  return <Hourglass size={size} aria-hidden />;
}

/** Box: allowed window. Tick: baseline. Bar: inside; diamond outside, with dashes to the nearest limit. */
function Bullet({ row }: { row: GateRow }) {
  const { slot, low, high, value, baseline, state } = row;
  if (slot)
    return (
      <span className="rail-slots">
        {[...new Set([slot.baseline, slot.now])].map((words) => (
          <span key={words ?? 'none'} data-now={words === slot.now}>
            {words ?? 'not recorded'}
          </span>
        ))}
      </span>
    );
  const from = low ?? baseline ?? value ?? 0;
  const to = high ?? (low === null ? from + 1 : Math.max(low + 1, low * 1.6));
  const span = Math.max(to - from, 1e-6);
  const x = (v: number) => 114 * Math.min(1, Math.max(0, (v - from + span * 0.7) / (span * 2.4))) + 8;
  const outside = state === 'outside' || state === 'warn';
  return (
    <svg viewBox="0 0 130 24" className="rail-bullet" aria-hidden>
      <line x1="0" x2="130" y1="12" y2="12" className="bullet-line" />
      {low !== null && <rect x={x(low)} width={Math.max(1, x(to) - x(low))} y="4" height="16" className="bullet-box" />}
      {baseline !== null && low !== null && (
        <line x1={x(baseline)} x2={x(baseline)} y1="4" y2="20" className="bullet-tick" />
      )}
      {value !== null && !outside && low !== null && (
        <rect x={x(value) - 2} y="2" width="4" height="20" className="bullet-bar" />
      )}
      {value !== null && outside && (
        <>
          <line x1={x(value)} x2={x(value < from ? from : to)} y1="12" y2="12" className="bullet-dash" />
          <path d={`M${x(value)} 3L${x(value) + 8} 12L${x(value)} 21L${x(value) - 8} 12Z`} className="bullet-out" />
        </>
      )}
    </svg>
  );
}
