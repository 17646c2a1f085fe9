import { Body, Controller, HttpCode, Param, ParseUUIDPipe, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { Access, CurrentUser } from '../people/access.ts';
import type { Caller } from '../people/caller.ts';
import { AirReading, GaugesDto, StartReading } from './readings.dto.ts';
import { ReadingsService } from './readings.service.ts';

/** Gauges read by hand: the bay's air where it has no weather station, and spot readings of a car without a sensor. */
@ApiTags('readings')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/jobs/:id')
export class ReadingsController {
  constructor(private readonly readings: ReadingsService) {}

  /** The bay's air now; pulls within a quarter of an hour that recorded none take it. */
  @Post('weather')
  @HttpCode(204)
  air(@CurrentUser() caller: Caller, @Param('id', ParseUUIDPipe) id: string, @Body() body: AirReading): Promise<void> {
    return this.readings.air(caller, id, body);
  }

  /** Start temperatures of one pull that no sensor told; what a sensor told is never typed over. */
  @Post('pulls/:pull/readings')
  @HttpCode(204)
  start(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Param('pull') pull: string,
    @Body() body: StartReading,
  ): Promise<void> {
    return this.readings.start(caller, id, pull, body);
  }

  /** Gauges that somebody read during pulls; those that are not named stay. What a sensor recorded is never typed over. */
  @Post('gauges')
  @HttpCode(204)
  gauges(
    @CurrentUser() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Body() body: GaugesDto,
  ): Promise<void> {
    return this.readings.gauges(caller, id, body);
  }
}
