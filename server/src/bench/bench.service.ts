import { ConflictException, Injectable, NotFoundException } from '@nestjs/common';
import type { BenchOrder, BenchState } from './bench.dto.ts';

/** Speaks with the bench of the demo: the simulated car and bay behind the stand-ins. */
@Injectable()
export class BenchService {
  /** @throws NotFoundException without a demo, ConflictException when the bench refuses the order */
  async ask(body?: BenchOrder): Promise<BenchState> {
    const url = process.env.PRANDEL_BENCH;
    if (!url) throw new NotFoundException('There is no bench here: the stand-ins only run with the demo.');
    const answer = await fetch(url, body ? { method: 'POST', body: JSON.stringify(body) } : {});
    const state = (await answer.json()) as BenchState & { refused?: string };
    if (state.refused) throw new ConflictException(state.refused);
    return state;
  }
}
