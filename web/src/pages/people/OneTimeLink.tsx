import type { Schemas } from '../../api/client.ts';
import { ShownOnce } from './ShownOnce.tsx';

/** A link to be handed over; it is shown this once. */
export function OneTimeLink({ made, words, onDone }: { made: Schemas['MadeLink']; words: string; onDone: () => void }) {
  const until = new Date(made.expiresAt).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
  return (
    <ShownOnce
      text={`${location.origin}/join#${made.secret}`}
      label="One-time link"
      words={`${words} It is over on ${until}, and it is shown only now.`}
      onDone={onDone}
    />
  );
}
