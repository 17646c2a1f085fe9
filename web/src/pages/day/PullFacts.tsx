import { shown } from '@prandel/presentation';
import { useUnits } from '../../api/hooks.ts';
import type { Laid } from './dayState.ts';

/** A pull as its file has it: curve, peak, range, length, and what is odd about it. */
export function PullFacts({ pull, name }: { pull: Laid; name: string }) {
  const units = useUnits();
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-3">
        <h2>{name}</h2>
        <span className="text-ink-2 break-all">
          {pull.file}
          {pull.name !== pull.file && pull.index > 0 ? `, ${pull.name}` : ''}
        </span>
      </div>
      <div className="flex flex-wrap items-start gap-x-4 gap-y-2">
        <Curve pull={pull} />
        <div className="grid gap-1">
          <span>
            {pull.peakPowerW === null ? 'No power' : `${shown(pull.peakPowerW, units.power)} ${units.power}`} at most,{' '}
            {pull.rpmFrom === null ? '–' : Math.round(pull.rpmFrom)}–
            {pull.rpmTo === null ? '–' : Math.round(pull.rpmTo)} rpm
          </span>
          <span className="text-ink-2">
            {pull.rows} rows{pull.durationS === null ? '' : `, ${pull.durationS.toFixed(1)} s`}
            {pull.gear ? `, gear ${pull.gear}` : ''}
          </span>
          {pull.findings.map((f) => (
            <span key={f.code} className="text-wait">
              {f.text}
            </span>
          ))}
          {pull.vehicle && <span className="text-ink-2">Car as the file has it: {pull.vehicle}</span>}
        </div>
      </div>
    </>
  );
}

function Curve({ pull }: { pull: Laid }) {
  const points = pull.curve.filter((c) => Number.isFinite(c.powerW));
  if (points.length < 2) return null;
  const [x0, x1] = [points[0]!.rpm, points.at(-1)!.rpm];
  const top = Math.max(...points.map((c) => c.powerW));
  const path = points
    .map(
      (c, k) =>
        `${k ? 'L' : 'M'}${(((c.rpm - x0) / (x1 - x0)) * 196 + 2).toFixed(1)} ${(66 - (Math.max(0, c.powerW) / top) * 60).toFixed(1)}`,
    )
    .join('');
  return (
    <svg viewBox="0 0 200 70" width="200" height="70" role="img" aria-label="Power over engine speed">
      <rect width="200" height="70" fill="var(--well)" />
      <path d={path} fill="none" stroke="var(--ink)" strokeWidth="1.5" />
    </svg>
  );
}
