import { AsyncLocalStorage } from 'node:async_hooks';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { ConsoleLogger, type LoggerService } from '@nestjs/common';
import type { NextFunction, Request, Response } from 'express';
import pino from 'pino';
import { processKind } from '../processKind.ts';

/** The request that the present work belongs to. */
const current = new AsyncLocalStorage<{ readonly id: string }>();

/** Lines that wait while they cannot be written; later ones are dropped. */
const WAITING_BYTES = 1_000_000;

/**
 * The server's log: one JSON object a line in PRANDEL_LOG, with the id of the request; warnings and errors on the terminal too.
 * Without PRANDEL_LOG only the terminal is told.
 */
export function serverLog(): LoggerService {
  const terminal = new ConsoleLogger({ logLevels: ['error', 'warn', 'fatal'] });
  const folder = process.env.PRANDEL_LOG;
  if (!folder) return terminal;
  const destination = pino.destination({
    dest: join(folder, `${processKind()}.log`),
    mkdir: true,
    sync: true,
    maxLength: WAITING_BYTES,
  });
  // A full disk ends the log for a while, never the server; what waits is written with the first line that goes through.
  let failing = false;
  destination.on('error', (error: Error) => {
    if (!failing) terminal.warn(`The log cannot be written: ${error.message}`, 'Log');
    failing = true;
  });
  destination.on('write', () => (failing = false));
  const file = pino(
    { base: { process: processKind(), pid: process.pid }, timestamp: pino.stdTimeFunctions.isoTime },
    destination,
  );
  const line =
    (level: 'info' | 'warn' | 'error') =>
    (message: unknown, ...more: unknown[]) => {
      const context = more.at(-1);
      const fields = typeof message === 'object' && message !== null ? message : { message: String(message) };
      file[level]({ context, request: current.getStore()?.id, ...fields });
      if (level === 'warn') terminal.warn(message, ...(more as string[]));
      if (level === 'error') terminal.error(message, ...(more as string[]));
    };
  return { log: line('info'), warn: line('warn'), error: line('error'), fatal: line('error'), debug: () => undefined };
}

/** Gives every request an id, which the answer and every line of the log bear, and logs how it ended: never its query or body. */
export function requestLog(log: LoggerService) {
  return (request: Request, response: Response, next: NextFunction): void => {
    const id = randomUUID().slice(0, 8);
    const started = performance.now();
    response.setHeader('X-Request-Id', id);
    response.on('finish', () => {
      current.run({ id }, () => {
        log.log(
          {
            method: request.method,
            // The secret of a shared link is in its address.
            path: request.originalUrl
              .split('?')[0]!
              .replace(/^(\/api\/shared\/)[^/]+/, '$1…')
              .slice(0, 200),
            status: response.statusCode,
            ms: Math.round(performance.now() - started),
          },
          'Request',
        );
      });
    });
    current.run({ id }, next);
  };
}
