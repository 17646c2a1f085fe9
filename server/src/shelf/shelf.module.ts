import { Module } from '@nestjs/common';
import { ShelfController } from './shelf.controller.ts';
import { ShelfService } from './shelf.service.ts';

/** Parts with what they did on the cars that had them. */
@Module({ controllers: [ShelfController], providers: [ShelfService] })
export class ShelfModule {}
