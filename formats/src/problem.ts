/** Something wrong with what was given: what, where, and what to do. */
export interface Problem {
  /** Line of the file from 1; null where no single line is to blame. */
  readonly line: number | null;
  readonly message: string;
}

/** A file or package that cannot be read at all. */
export class UnreadableError extends Error {
  constructor(
    message: string,
    readonly problems: readonly Problem[] = [{ line: null, message }],
  ) {
    super(message);
    this.name = 'UnreadableError';
  }
}
