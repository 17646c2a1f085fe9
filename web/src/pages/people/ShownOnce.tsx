import { Check, Copy } from 'lucide-react';
import { useState } from 'react';

/** A secret that is shown this once, to be copied. */
export function ShownOnce({
  text,
  label,
  words,
  onDone,
}: {
  text: string;
  label: string;
  words: string;
  onDone: () => void;
}) {
  const [copied, setCopied] = useState(false);
  // On a page without TLS a browser may not copy; the text is there to be marked.
  const copy = async () => {
    await navigator.clipboard?.writeText(text).then(
      () => setCopied(true),
      () => undefined,
    );
  };
  return (
    <div className="notice plain grid gap-2" role="status">
      <p>{words}</p>
      <div className="flex flex-wrap gap-2">
        <input
          className="input min-w-[320px] flex-1 font-mono !text-[12px]"
          aria-label={label}
          readOnly
          value={text}
          onFocus={(e) => e.target.select()}
        />
        <button type="button" className="btn" onClick={() => void copy()}>
          {copied ? <Check size={14} aria-hidden /> : <Copy size={14} aria-hidden />}
          {copied ? 'Copied' : 'Copy'}
        </button>
        <button type="button" className="btn" onClick={onDone}>
          I have it
        </button>
      </div>
    </div>
  );
}
