import type { ComponentProps, ReactNode } from 'react';

/** A labelled control with its error beside it. */
export function Field({
  label,
  hint,
  error,
  children,
}: {
  label: string;
  hint?: string;
  error?: string | undefined;
  children: ReactNode;
}) {
  return (
    <label className="field">
      <span>{label}</span>
      {children}
      {error ? (
        <span className="wrong" role="alert">
          {error}
        </span>
      ) : hint ? (
        <span className="text-ink-3 text-[11.5px]">{hint}</span>
      ) : null}
    </label>
  );
}

export function Input(props: ComponentProps<'input'>) {
  return <input {...props} className={`input ${props.className ?? ''}`} />;
}

export function Notice({ kind = 'warn', children }: { kind?: 'warn' | 'bad' | 'plain'; children: ReactNode }) {
  return (
    <div className={`notice ${kind}`} role={kind === 'bad' ? 'alert' : 'status'}>
      {children}
    </div>
  );
}
