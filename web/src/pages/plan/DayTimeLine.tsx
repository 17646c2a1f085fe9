import { setupStyles } from '@prandel/presentation';
import type { DayBlock, PlannedDay, Setup } from '@prandel/core';

const WIDTH = 1200;
const LEFT = 22;

/** A plan on time lines, one a day. */
export function DayTimeLines({
  day,
  startMin,
  openFromMin,
  ...rest
}: {
  day: PlannedDay;
  startMin: number;
  openFromMin: number;
  setups: readonly Setup[];
  openUntilMin: number;
}) {
  const days: { blocks: DayBlock[]; startMin: number }[] = [{ blocks: [], startMin }];
  let from = 0;
  for (const block of day.blocks) {
    if (block.kind === 'night') {
      from = block.toMin;
      days.push({ blocks: [], startMin: openFromMin });
      continue;
    }
    const shifted = {
      fromMin: block.fromMin - from,
      toMin: block.toMin - from,
      pullMin: block.pullMin.map((m) => m - from),
    };
    days.at(-1)!.blocks.push({ ...block, ...shifted });
  }
  return days.map((own, i) => (
    <div key={i}>
      {days.length > 1 && <b className="text-[12.5px]">Day {i + 1}</b>}
      <DayTimeLine
        {...rest}
        startMin={own.startMin}
        day={{ steps: day.steps, blocks: own.blocks, minutes: own.blocks.at(-1)?.toMin ?? 0 }}
      />
    </div>
  ));
}

/** The planned day on a time line: dashed blocks of pulls, hatched fittings, dotted cool-downs, and closing time. */
function DayTimeLine({
  day,
  startMin,
  setups,
  openUntilMin,
}: {
  day: Pick<PlannedDay, 'steps' | 'blocks' | 'minutes'>;
  startMin: number;
  setups: readonly Setup[];
  openUntilMin: number;
}) {
  const looks = setupStyles(setups);
  const end = Math.max(startMin + day.minutes, Math.min(openUntilMin, startMin + day.minutes + 90)) + 15;
  const from = Math.floor(startMin / 30) * 30;
  const x = (minute: number) => LEFT + ((minute - from) / (end - from)) * (WIDTH - 2 * LEFT);
  const clock = (m: number) =>
    `${String(Math.floor(m / 60) % 24).padStart(2, '0')}:${String(Math.round(m) % 60).padStart(2, '0')}`;
  const step = end - from > 360 ? 60 : 30;
  const hours = Array.from({ length: Math.floor((end - from) / step) + 1 }, (_, i) => from + i * step);
  return (
    <svg viewBox={`0 0 ${WIDTH} 96`} className="mt-1 w-full" role="img" aria-label={describe(day, startMin, clock)}>
      <defs>
        <pattern id="plan-fit" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" x2="0" y1="0" y2="7" stroke="var(--hatch)" strokeWidth="1.6" />
        </pattern>
        <pattern id="plan-cool" width="6" height="6" patternUnits="userSpaceOnUse">
          <circle cx="2" cy="2" r="1" fill="var(--hatch)" />
        </pattern>
      </defs>
      {hours.map((m) => (
        <g key={m}>
          <line x1={x(m)} x2={x(m)} y1="20" y2="76" stroke="var(--rule-faint)" />
          <text x={x(m)} y="91" textAnchor="middle" fontSize="11.5" fill="var(--ink-2)">
            {clock(m)}
          </text>
        </g>
      ))}
      {day.blocks.map((b) => {
        const [a, z] = [x(startMin + b.fromMin), x(startMin + b.toMin)];
        const look = looks.get(b.setup);
        if (b.kind !== 'pulls')
          return (
            <rect
              key={`${b.kind} ${b.fromMin}`}
              x={a}
              y="34"
              width={z - a}
              height="34"
              fill={b.kind === 'fitting' ? 'url(#plan-fit)' : 'url(#plan-cool)'}
            >
              <title>{`${b.kind}, ${Math.round(b.toMin - b.fromMin)} min`}</title>
            </rect>
          );
        const hue = look?.line ?? 'var(--ink-2)';
        return (
          <g key={`${b.setup} ${b.fromMin}`}>
            <rect
              x={a}
              y="34"
              width={z - a}
              height="34"
              rx="2"
              fill={hue}
              fillOpacity=".08"
              stroke={hue}
              strokeDasharray="4 3"
            />
            <text x={a + 2} y="27" fontSize="13" fontWeight="700" fill={look?.text ?? 'var(--ink)'}>
              {b.setup}
            </text>
            {b.pullMin.map((m, i) => (
              <rect
                key={m}
                x={x(startMin + m) + 3}
                y="42"
                width="4"
                height="18"
                fill={i < day.steps[0]!.settle ? 'var(--sheet)' : hue}
                stroke={hue}
              />
            ))}
          </g>
        );
      })}
      {openUntilMin <= end && openUntilMin >= from && (
        <g>
          <line x1={x(openUntilMin)} x2={x(openUntilMin)} y1="14" y2="76" stroke="var(--act)" strokeWidth="1.6" />
          <text x={x(openUntilMin) - 5} y="22" fontSize="11.5" textAnchor="end" fill="var(--act)">
            closing
          </text>
        </g>
      )}
    </svg>
  );
}

function describe(day: Pick<PlannedDay, 'blocks'>, startMin: number, clock: (m: number) => string): string {
  return day.blocks
    .map((b) => `${clock(startMin + b.fromMin)} ${b.kind === 'pulls' ? `pulls on ${b.setup}` : b.kind}`)
    .join(', ');
}
