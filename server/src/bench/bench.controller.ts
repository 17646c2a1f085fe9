import { Body, Controller, Get, HttpCode, Post } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access } from '../people/access.ts';
import { BenchOrder, BenchState } from './bench.dto.ts';
import { BenchService } from './bench.service.ts';

/** The bench of the demo: the simulated car and bay behind the stand-ins. Without a demo there is none. */
@ApiTags('bench')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/bench')
export class BenchController {
  constructor(private readonly bench: BenchService) {}

  @Get()
  @ApiOkResponse({ type: BenchState })
  state(): Promise<BenchState> {
    return this.bench.ask();
  }

  @Post()
  @HttpCode(200)
  @ApiOkResponse({ type: BenchState })
  order(@Body() body: BenchOrder): Promise<BenchState> {
    return this.bench.ask(body);
  }
}
