import { setupStyles, VERDICT_SHAPES, type VerdictLook } from '@prandel/presentation';
import type { Setup } from '@prandel/core';

/** A setup's letter in its hue; hollow for a return check. */
export function Badge({ setup, setups }: { setup: string; setups: readonly Setup[] }) {
  const look = setupStyles(setups).get(setup)!;
  return (
    <span
      className="badge"
      style={
        look.hollow
          ? { color: look.text, boxShadow: `inset 0 0 0 1.3px ${look.line}` }
          : { background: look.line, color: look.on }
      }
    >
      {setup}
    </span>
  );
}

/** A verdict's shape, with its word where there is room. */
export function Shape({ look, word = false }: { look: VerdictLook; word?: boolean }) {
  return (
    <span style={{ color: look.colour }}>
      <svg
        viewBox="0 0 16 16"
        role="img"
        aria-label={look.word}
        dangerouslySetInnerHTML={{ __html: VERDICT_SHAPES[look.key] }}
      />
      {word ? look.short : null}
    </span>
  );
}
