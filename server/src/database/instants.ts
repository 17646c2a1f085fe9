/** An instant as it is stored: when it was, and how it was written where that is not how this program writes instants. */
export interface StoredInstant {
  readonly at: Date | null;
  readonly text: string | null;
}

/** Text of an imported package may say an instant in its own way; nothing of it is lost. */
export function storedInstant(words: string | null): StoredInstant {
  if (words === null) return { at: null, text: null };
  const at = new Date(words);
  if (Number.isNaN(at.getTime())) return { at: null, text: words };
  return { at, text: at.toISOString() === words ? null : words };
}

export function instantText({ at, text }: StoredInstant): string | null {
  return text ?? at?.toISOString() ?? null;
}
