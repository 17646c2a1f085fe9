import { Body, Controller, Get, HttpCode, Put } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { MoneyDto } from './money.dto.ts';
import { MoneyService } from './money.service.ts';

/** What the shop reckons costs with: jobs that say nothing of their own follow it. */
@ApiTags('money')
@Access({ read: 'viewer', change: 'owner' })
@Controller('api/money')
export class MoneyController {
  constructor(private readonly money: MoneyService) {}

  @Get()
  @ApiOkResponse({ type: MoneyDto })
  read(@CurrentUser() caller: Caller): Promise<MoneyDto> {
    return this.money.read(caller);
  }

  @Put()
  @HttpCode(204)
  write(@CurrentUser() caller: Caller, @Body() body: MoneyDto): Promise<void> {
    return this.money.write(caller, body);
  }
}
