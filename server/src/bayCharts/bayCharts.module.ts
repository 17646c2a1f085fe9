import { Body, Controller, Get, HttpCode, Module, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiNoContentResponse, ApiTags } from '@nestjs/swagger';
import { ApiCoreAnswer } from '../http/answers.ts';
import type { BayChartsAnswer, OpenSignalsAnswer } from '../http/coreAnswers.ts';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { NewSecondReading, NewSignalAnswer } from './bayCharts.dto.ts';
import { BayChartsService } from './bayCharts.service.ts';

/** The bay held against itself. */
@ApiTags('bays')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api')
class BayChartsController {
  constructor(private readonly charts: BayChartsService) {}

  /** Signals that nobody has answered: shown on every page of their bay. */
  @Get('bay-signals')
  @ApiCoreAnswer('OpenSignalsAnswer')
  open(@CurrentUser() caller: Caller): Promise<OpenSignalsAnswer> {
    return this.charts.open(caller);
  }

  @Get('bays/:id/charts')
  @ApiCoreAnswer('BayChartsAnswer')
  read(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string): Promise<BayChartsAnswer> {
    return this.charts.charts(caller, id);
  }

  /** Says what was found behind the signals of a chart. */
  @Post('bays/:id/charts/answers')
  @HttpCode(204)
  @ApiNoContentResponse()
  answer(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: NewSignalAnswer,
  ): Promise<void> {
    return this.charts.answer(caller, id, body);
  }

  /** A reading of a second instrument beside the station. */
  @Post('bays/:id/charts/second')
  @HttpCode(204)
  @ApiNoContentResponse()
  second(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: NewSecondReading,
  ): Promise<void> {
    return this.charts.second(caller, id, body);
  }
}

/** The bay held against itself: charts, signals, answers. */
@Module({ controllers: [BayChartsController], providers: [BayChartsService] })
export class BayChartsModule {}
