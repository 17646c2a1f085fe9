import { Controller, Get, Injectable, NotFoundException, Param, ParseUUIDPipe, Query } from '@nestjs/common';
import { ApiOkResponse, ApiProperty, ApiQuery, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { CancelledError } from './cancelled.ts';

/** How far a piece of work is. */
export class TaskProgress {
  @ApiProperty({ enum: ['reading', 'storing'] }) stage: 'reading' | 'storing';
  @ApiProperty({ description: 'Share done, 0 to 1.' }) share: number;
}

/** States that an operation takes a task's id, by which its progress is asked for. */
export const ApiTask = () =>
  ApiQuery({
    name: 'task',
    required: false,
    schema: { type: 'string', format: 'uuid' },
    description: 'Names the work.',
  });
/** The id of the task, where the sender named one. */
export const TaskQuery = () => Query('task', new ParseUUIDPipe({ optional: true }));

/** A piece of work that a person waits for. */
export interface Task {
  /** Aborts when the sender closes the request. */
  readonly signal: AbortSignal;
  readonly tell: (stage: TaskProgress['stage'], share: number) => void;
}

/** Progress of requests that take a while, by the id that their sender gave them. Closing the request cancels the work. */
@Injectable()
export class Tasks {
  readonly #running = new Map<string, TaskProgress>();

  /** @param id named by the sender to ask for progress with; without one nobody can */
  async run<T>(
    shopId: string,
    id: string | undefined,
    response: Response,
    work: (task: Task) => Promise<T>,
  ): Promise<T> {
    const key = `${shopId}:${id ?? ''}`;
    const controller = new AbortController();
    const gone = () => {
      if (!response.writableFinished) controller.abort(new CancelledError());
    };
    response.on('close', gone);
    if (id) this.#running.set(key, { stage: 'reading', share: 0 });
    try {
      return await work({
        signal: controller.signal,
        tell: (stage, share) => {
          if (id) this.#running.set(key, { stage, share });
        },
      });
    } finally {
      response.off('close', gone);
      this.#running.delete(key);
    }
  }

  of(shopId: string, id: string): TaskProgress {
    const progress = this.#running.get(`${shopId}:${id}`);
    if (!progress) throw new NotFoundException('Nothing of this name is being worked on.');
    return progress;
  }
}

@ApiTags('tasks')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/tasks')
export class TasksController {
  constructor(private readonly tasks: Tasks) {}

  @Get(':id')
  @ApiOkResponse({ type: TaskProgress })
  progress(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): TaskProgress {
    return this.tasks.of(caller.shopId, id);
  }
}
