import { OPEN_RING, SEAL_RING } from '@prandel/presentation';

/** A seal: a closed ring with a notch; what does not hold is an open one. */
export function SealMark({ holds = true, size }: { holds?: boolean; size: number }) {
  return (
    <svg viewBox="0 0 32 32" width={size} height={size} aria-hidden="true" className={holds ? 'text-ink' : 'text-act'}>
      <path
        d={holds ? SEAL_RING : OPEN_RING}
        fill="none"
        stroke="currentColor"
        strokeWidth={holds ? 2.6 : 3.2}
        strokeLinecap="round"
      />
    </svg>
  );
}
