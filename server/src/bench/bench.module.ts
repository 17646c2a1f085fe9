import { Module } from '@nestjs/common';
import { BenchController } from './bench.controller.ts';
import { BenchService } from './bench.service.ts';

/** The bench of the demo. */
@Module({ controllers: [BenchController], providers: [BenchService] })
export class BenchModule {}
