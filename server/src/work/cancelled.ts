/** A request that its sender gave up. */
export class CancelledError extends Error {
  constructor() {
    super('The sender gave up: nothing of it was kept.');
  }
}
