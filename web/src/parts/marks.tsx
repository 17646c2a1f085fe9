import { setupStyles, verdictLook, VERDICT_SHAPES } from '@prandel/presentation';
import type { Setup, Verdict } from '@prandel/core';

/** A setup's letter in its hue; hollow for a return check. */
export function Badge({ id, setups }: { id: string; setups: readonly Setup[] }) {
  const look = setupStyles(setups).get(id);
  if (!look) return <span className="badge">{id}</span>;
  return (
    <span
      className="badge"
      style={
        look.hollow
          ? { color: look.text, boxShadow: `inset 0 0 0 1.3px ${look.line}` }
          : { background: look.line, color: look.on }
      }
    >
      {id}
    </span>
  );
}

/** Where nothing else is said a verdict is one on power. */
const POWER = 'windowMeanPower';

/** A verdict's shape in the colour of the text; `alone` where no word stands beside it. */
export function VerdictShape({
  verdict,
  measure = POWER,
  size,
  alone = false,
}: {
  verdict: Verdict;
  measure?: string;
  size: number;
  alone?: boolean;
}) {
  const look = verdictLook(verdict, measure);
  return (
    <svg
      viewBox="0 0 16 16"
      width={size}
      height={size}
      role={alone ? 'img' : undefined}
      aria-label={alone ? look.word : undefined}
      aria-hidden={alone ? undefined : true}
      dangerouslySetInnerHTML={{ __html: VERDICT_SHAPES[look.key] }}
    />
  );
}

/** A verdict's shape with its word. */
export function VerdictTag({
  verdict,
  measure = POWER,
  size = 11,
  word = 'short',
}: {
  verdict: Verdict;
  measure?: string;
  size?: number;
  word?: 'short' | 'long' | 'none';
}) {
  const look = verdictLook(verdict, measure);
  return (
    <span className="inline-flex items-center gap-1.5 whitespace-nowrap font-[620]" style={{ color: look.colour }}>
      <VerdictShape verdict={verdict} measure={measure} size={size} alone={word === 'none'} />
      {word === 'none' ? null : word === 'long' ? look.word : look.short}
    </span>
  );
}

export function Mark() {
  return (
    <svg width="20" height="20" viewBox="0 0 20 20" aria-hidden="true">
      <path d="M1 15.5C6 14.5 10 11 19 8.5" fill="none" stroke="currentColor" strokeWidth="2" />
      <path d="M1 15.5C6 14.5 9 4.5 19 3V8.5C10 11 6 14.5 1 15.5Z" fill="currentColor" />
    </svg>
  );
}
