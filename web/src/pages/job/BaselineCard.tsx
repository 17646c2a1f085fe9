import { shown, type ShownUnits } from '@prandel/presentation';
import type { BaselineStanding } from '@prandel/core';
import { useQuery } from '@tanstack/react-query';
import { ask, type StoredJob } from '../../api/client.ts';
import { useUnits } from '../../api/hooks.ts';

/** The baseline beside what cars of its model have shown. */
export function BaselineCard({ stored: { job, rowId, version } }: { stored: StoredJob }) {
  const units = useUnits();
  const standing = useQuery({
    queryKey: ['job', rowId, 'baseline', version],
    queryFn: () => ask('get', '/api/jobs/{id}/baseline', { params: { path: { id: rowId } } }),
    refetchInterval: ({ state }) => (state.data?.waiting ? 1000 : false),
    enabled: Boolean(job.day?.modelCard.label),
  });
  const { data } = standing;
  if (!data || data.peakW === null) return null;
  const power = (w: number) => `${shown(w, units.power, 1)} ${units.power}`;
  return (
    <section className="sheet card grid gap-2" aria-label="The baseline">
      <h3>The baseline</h3>
      {data.range ? (
        <>
          <p>
            {STANDS[data.stands]} what {data.range.cars} cars of this model have shown here: a peak of{' '}
            <b className="whitespace-nowrap">{power(data.peakW)}</b> against {shown(data.range.lowW, units.power, 1)} to{' '}
            <span className="whitespace-nowrap">{power(data.range.highW)}</span>.
          </p>
          <RangeBar peakW={data.peakW} range={data.range} units={units} />
        </>
      ) : (
        <p className="text-ink-2">
          Peak of the mean {power(data.peakW)}. Three cars of this model, on its card or in jobs of this bay, make a
          range to hold it against.
        </p>
      )}
      {data.waiting > 0 && <p className="text-ink-3">{data.waiting} more to be worked out …</p>}
      {data.stands === 'low' && (
        <p className="text-ink-2">
          A baseline that repeats but reads low is itself a finding. Open a search before anything is fitted.
        </p>
      )}
    </section>
  );
}

const STANDS: Record<BaselineStanding['stands'], string> = {
  low: 'Below',
  inside: 'Inside',
  high: 'Above',
  unknown: 'Beside',
};

/** The range as a box, the car as a tick. */
function RangeBar({
  peakW,
  range: { lowW, highW },
  units,
}: {
  peakW: number;
  range: NonNullable<BaselineStanding['range']>;
  units: ShownUnits;
}) {
  const from = Math.min(lowW, peakW) - 0.25 * (highW - lowW);
  const to = Math.max(highW, peakW) + 0.25 * (highW - lowW);
  const x = (w: number) => (380 * (w - from)) / (to - from);
  const end = (w: number) => (
    <text x={x(w)} y="36" fontSize="11" textAnchor="middle" fill="var(--ink-3)">
      {shown(w, units.power, 1)}
    </text>
  );
  return (
    <svg viewBox="0 0 380 40" className="w-full" aria-hidden>
      <line x1="0" x2="380" y1="12" y2="12" stroke="var(--rule-strong)" />
      <rect
        x={x(lowW)}
        width={x(highW) - x(lowW)}
        y="4"
        height="16"
        fill="var(--rule-faint)"
        stroke="var(--ctl-line)"
      />
      <rect x={x(peakW) - 1.5} y="0" width="3" height="24" fill="var(--a)" />
      {end(lowW)}
      {end(highW)}
    </svg>
  );
}
