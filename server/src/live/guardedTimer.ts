import { Logger } from '@nestjs/common';
import { loggable } from '../database/faults.ts';

const log = new Logger('Bay');

/** A timer whose work may fail without ending the process, and with it every other bay. */
export function guardedTimer(ms: number, work: () => void): NodeJS.Timeout {
  return setInterval(() => {
    try {
      work();
    } catch (error) {
      log.error(loggable(error));
    }
  }, ms);
}
