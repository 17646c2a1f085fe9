import { Injectable, type CallHandler, type ExecutionContext, type NestInterceptor } from '@nestjs/common';
import { isUUID as isUuid } from 'class-validator';
import type { Request } from 'express';
import { tap, type Observable } from 'rxjs';
import type { Asking } from '../people/access.ts';
import { ProjectionsService } from './projections.service.ts';

/**
 * Asks for a job's projection as soon as a request has changed or made the job, so that a list ordered or narrowed by verdict need not
 * wait for the next look. What the bays change is found by that look.
 */
@Injectable()
export class ChangedJobs implements NestInterceptor {
  constructor(private readonly projections: ProjectionsService) {}

  intercept(context: ExecutionContext, next: CallHandler): Observable<unknown> {
    const request = context.switchToHttp().getRequest<Asking>();
    if (request.method === 'GET') return next.handle();
    return next.handle().pipe(
      tap((answer: unknown) => {
        const jobId = jobChangedBy(request, answer);
        if (jobId && request.caller) this.projections.ask([{ shopId: request.caller.shopId, jobId }]);
      }),
    );
  }
}

function jobChangedBy({ path, params }: Request, answer: unknown): string | null {
  const { id: made } = (answer ?? {}) as { id?: unknown };
  const id = path === '/api/packages' ? made : path.startsWith('/api/jobs/') ? params.id : null;
  return isUuid(id) ? (id as string) : null;
}
