import type { BayTrack, TrackBlock } from '@prandel/core';
import { bayStyle } from './bayStyles.ts';

const WIDTH = 640;
const [TOP, HEIGHT] = [26, 24];
/** The day is drawn at least this long, so that one pull is not a wall. */
const LEAST_MS = 2 * 3_600_000;

/** The day as flags and blocks: what was pulled and fitted, now, and dashed what the plan still asks for. */
export function DayStrip({
  track,
  setups,
}: {
  track: BayTrack;
  setups: readonly { readonly id: string; readonly returnsTo: string | null }[];
}) {
  const first = Math.min(track.nowMs, ...track.blocks.map((b) => b.fromMs));
  const last = Math.max(first + LEAST_MS, ...track.blocks.map((b) => b.toMs));
  const x = (ms: number) => 2 + ((ms - first) / (last - first)) * (WIDTH - 4);
  const now = x(track.nowMs);
  let flagged = -Infinity;
  return (
    <svg viewBox={`0 0 ${WIDTH} 54`} className="strip" role="img" aria-label={spoken(track)}>
      <defs>
        <pattern id="bay-fit" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" x2="0" y1="0" y2="8" stroke="var(--ink-3)" strokeWidth="2" />
        </pattern>
      </defs>
      {track.blocks.map((block, i) => {
        // What is left of a running round needs no flag of its own.
        const goesOn = track.blocks[i - 1]?.kind === 'pulls' && track.blocks[i - 1]!.setup === block.setup;
        const flag = block.kind === 'pulls' && !goesOn && x(block.fromMs) > flagged ? block.setup : null;
        if (flag) flagged = x(block.fromMs) + 16 + 11 * flag.length;
        return <Block key={i} block={block} x={x} look={bayStyle(setups, block.setup)} flag={flag} />;
      })}
      <line x1={now} x2={now} y1={TOP - 6} y2={TOP + HEIGHT + 4} stroke="var(--ink)" strokeWidth="3" />
    </svg>
  );
}

function Block({
  block: { kind, fromMs, toMs, planned, pulls },
  x,
  look,
  flag,
}: {
  block: TrackBlock;
  x: (ms: number) => number;
  look: ReturnType<typeof bayStyle>;
  flag: string | null;
}) {
  const [from, to] = [x(fromMs), x(toMs)];
  const width = Math.max(3, to - from);
  if (kind === 'fitting')
    return (
      <rect x={from} y={TOP + 3} width={width} height={HEIGHT - 6} fill="url(#bay-fit)" opacity={planned ? 0.45 : 1} />
    );
  return (
    <g>
      <rect
        x={from}
        y={TOP}
        width={width}
        height={HEIGHT}
        rx="2"
        fill={look.line}
        fillOpacity={planned ? 0.05 : 0.22}
        stroke={look.line}
        strokeWidth="2"
        strokeDasharray={planned ? '6 5' : undefined}
      />
      {flag && (
        <text x={from} y={TOP - 7} fontSize="20" fontWeight="700" fill={look.line}>
          {flag}
        </text>
      )}
      {pulls.map(({ atMs, status }) => {
        const at = x(atMs);
        return status === 'set-aside' ? (
          <path
            key={atMs}
            d={`M${at - 4} ${TOP + 7}l8 10m0 -10l-8 10`}
            stroke={look.line}
            strokeWidth="2.4"
            fill="none"
          />
        ) : (
          <rect
            key={atMs}
            x={at - 2}
            y={TOP + 5}
            width="5"
            height={HEIGHT - 10}
            fill={status === 'settle' ? 'var(--sheet)' : look.line}
            stroke={look.line}
            strokeWidth="1.5"
          />
        );
      })}
    </g>
  );
}

function spoken({ blocks }: BayTrack): string {
  const of = (planned: boolean) =>
    blocks
      .filter((b) => b.planned === planned)
      .map((b) => (b.kind === 'fitting' ? `fitting ${b.setup}` : `${b.pulls.length || ''} pulls on ${b.setup}`.trim()))
      .join(', ');
  const rest = of(true);
  return `The day: ${of(false) || 'nothing yet'}${rest ? `; still planned: ${rest}` : ''}`;
}
