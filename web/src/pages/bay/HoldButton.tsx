import { useEffect, useRef, useState, type ReactNode } from 'react';

const PRESS_MS = 3000;

/** A button that only acts after it was pressed for three seconds, with finger, mouse or the Enter key. */
export function HoldButton({ children, onHeld }: { children: ReactNode; onHeld: () => void }) {
  const timer = useRef(0);
  const [held, setHeld] = useState(false);
  const down = () => {
    if (timer.current) return;
    setHeld(true);
    timer.current = window.setTimeout(() => {
      up();
      onHeld();
    }, PRESS_MS);
  };
  const up = () => {
    window.clearTimeout(timer.current);
    timer.current = 0;
    setHeld(false);
  };
  useEffect(() => () => window.clearTimeout(timer.current), []);
  return (
    <button
      className="bay-btn locked"
      data-held={held}
      onPointerDown={down}
      onPointerUp={up}
      onPointerLeave={up}
      onKeyDown={(e) => e.key === 'Enter' && down()}
      onKeyUp={up}
      onBlur={up}
    >
      {children}
    </button>
  );
}
