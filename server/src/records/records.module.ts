import { Module } from '@nestjs/common';
import { RecordsController } from './records.controller.ts';
import { RecordsService } from './records.service.ts';

/** Customers, vehicles, parts, model cards, house methods. */
@Module({ controllers: [RecordsController], providers: [RecordsService] })
export class RecordsModule {}
