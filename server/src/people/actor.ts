import { AsyncLocalStorage } from 'node:async_hooks';
import { Injectable, type CallHandler, type ExecutionContext, type NestInterceptor } from '@nestjs/common';
import { Observable } from 'rxjs';
import type { Asking } from './access.ts';

/** Whose session or token a piece of work belongs to. */
export interface Actor {
  readonly personId: string | null;
  readonly tokenId: string | null;
}

const actors = new AsyncLocalStorage<Actor>();

/** Who asked for the work that runs now; null: nobody did, as when a bay records a pull. */
export function actor(): Actor | null {
  return actors.getStore() ?? null;
}

/** Runs work that outlives the request that began it, such as listening to a bay: what it does is nobody's. */
export function asNobody<T>(work: () => T): T {
  return actors.exit(work);
}

/** Lets everything a request does know whose it is, so that every event of the log names a person or a token. */
@Injectable()
export class ActorInterceptor implements NestInterceptor {
  intercept(context: ExecutionContext, next: CallHandler): Observable<unknown> {
    const { caller } = context.switchToHttp().getRequest<Asking>();
    if (!caller) return next.handle();
    const { personId, tokenId } = caller;
    return new Observable((subscriber) => actors.run({ personId, tokenId }, () => next.handle().subscribe(subscriber)));
  }
}
