import { Module } from '@nestjs/common';
import { MoneyController } from './money.controller.ts';
import { MoneyService } from './money.service.ts';

/** Currency and labour rate of the shop. */
@Module({ controllers: [MoneyController], providers: [MoneyService] })
export class MoneyModule {}
