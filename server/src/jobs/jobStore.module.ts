import { Module } from '@nestjs/common';
import { JobStore } from './jobStore.ts';

/** Reads and writes jobs as rows; every feature of a job stands on it. */
@Module({ providers: [JobStore], exports: [JobStore] })
export class JobStoreModule {}
