import { useState, type ReactNode } from 'react';

/** A button whose deed is asked for again in the same place before it is done. */
export function AskInPlace({
  label,
  question,
  yes,
  busy,
  onYes,
  children,
}: {
  label: string;
  question: string;
  yes: string;
  busy: boolean;
  onYes: () => void;
  children?: ReactNode;
}) {
  const [asking, setAsking] = useState(false);
  if (!asking)
    return (
      <button
        type="button"
        className="btn sm justify-self-start"
        aria-label={label}
        disabled={busy}
        onClick={() => setAsking(true)}
      >
        {children ?? label}
      </button>
    );
  return (
    <span className="inline-flex flex-wrap items-center gap-2" role="group" aria-label={question}>
      <span>{question}</span>
      <button
        type="button"
        className="btn sm"
        disabled={busy}
        autoFocus
        onClick={() => {
          setAsking(false);
          onYes();
        }}
      >
        {yes}
      </button>
      <button type="button" className="btn sm" onClick={() => setAsking(false)}>
        Keep it
      </button>
    </span>
  );
}
