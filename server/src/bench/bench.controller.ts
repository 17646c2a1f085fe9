import { Body, ConflictException, Controller, Get, HttpCode, NotFoundException, Post } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { Access } from '../people/access.ts';

/** The bench of the demo: the simulated car and bay behind the stand-ins. Without a demo there is none. */
@ApiTags('bench')
@Access({ read: 'viewer', change: 'technician' })
@Controller('api/bench')
export class BenchController {
  @Get()
  state(): Promise<unknown> {
    return this.#ask();
  }

  @Post()
  @HttpCode(200)
  order(@Body() body: Record<string, unknown>): Promise<unknown> {
    return this.#ask(body);
  }

  async #ask(body?: Record<string, unknown>): Promise<unknown> {
    const url = process.env.PRANDEL_BENCH;
    if (!url) throw new NotFoundException('There is no bench here: the stand-ins only run with the demo.');
    const answer = await fetch(url, body ? { method: 'POST', body: JSON.stringify(body) } : {});
    const told = (await answer.json()) as { refused?: string };
    if (told.refused) throw new ConflictException(told.refused);
    return told;
  }
}
