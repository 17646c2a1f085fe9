/** Something the person at the keyboard can mend: told in one plain sentence, without a stack. */
export class OperatorError extends Error {}
