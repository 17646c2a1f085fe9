import { Module } from '@nestjs/common';
import { Judging } from './judging.ts';
import { Tasks, TasksController } from './progress.ts';
import { WorkPool } from './workPool.ts';

/** Heavy work in processes of its own, with progress. */
@Module({ controllers: [TasksController], providers: [WorkPool, Judging, Tasks], exports: [WorkPool, Judging, Tasks] })
export class WorkModule {}
