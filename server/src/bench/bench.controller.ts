import { Body, ConflictException, Controller, Get, HttpCode, NotFoundException, Post } from '@nestjs/common';
import { ApiOkResponse, ApiTags } from '@nestjs/swagger';
import { Access } from '../people/access.ts';
import { BenchOrder, BenchState } from './bench.dto.ts';

/** The bench of the demo: the simulated car and bay behind the stand-ins. Without a demo there is none. */
@ApiTags('bench')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/bench')
export class BenchController {
  @Get()
  @ApiOkResponse({ type: BenchState })
  state(): Promise<BenchState> {
    return this.#ask();
  }

  @Post()
  @HttpCode(200)
  @ApiOkResponse({ type: BenchState })
  order(@Body() body: BenchOrder): Promise<BenchState> {
    return this.#ask(body);
  }

  async #ask(body?: BenchOrder): Promise<BenchState> {
    const url = process.env.PRANDEL_BENCH;
    if (!url) throw new NotFoundException('There is no bench here: the stand-ins only run with the demo.');
    const answer = await fetch(url, body ? { method: 'POST', body: JSON.stringify(body) } : {});
    const state = (await answer.json()) as BenchState & { refused?: string };
    if (state.refused) throw new ConflictException(state.refused);
    return state;
  }
}
