/** Words of a query take part from this many letters on; a shorter one may be the beginning of anything. */
const LEAST = 3;
/** Ends every range of words that begin alike, in the order of bytes. */
const LAST = '\u{10ffff}';

/** Which words of the index one word of a query means. */
export interface WordRange {
  readonly from: string;
  /** Exclusive; null: the word itself. */
  readonly until: string | null;
}

/**
 * The words a query asks for, each as a range of the index of words; what is typed between them is only a separator. Words are
 * split and written as search_words in the database does it. A number's short parts, such as "2" in "260914-2", are whole words;
 * other short words are left out.
 */
export function wordRanges(query: string): WordRange[] {
  const plain = query
    .toLowerCase()
    .normalize('NFD')
    .replaceAll(/[\u0300-\u036f]/g, '');
  return plain.split(/\s+/).flatMap((token) => {
    const parts = token.split(/[^\p{L}\p{N}]+/u).filter(Boolean);
    return parts.flatMap((part): WordRange[] => {
      const word = part.slice(0, 40);
      if ([...word].length >= LEAST) return [{ from: word, until: word + LAST }];
      return parts.length > 1 ? [{ from: word, until: null }] : [];
    });
  });
}
