import {
  judgePrepared,
  judgementSteps,
  momentsCurve,
  preparePulls,
  PreparedPulls,
  rawWarmUpDay,
  frameBytes,
  type Job,
} from '@prandel/core';
import { curveDay, largeJob } from '@prandel/simulator';

const FRAME_MS = 1000 / 60;

/** The fastest of some runs after a first one, milliseconds; the first one apart, which runs code for the first time. */
function timed(work: () => unknown, times: number): { first: number; warm: number } {
  const run = () => {
    const start = performance.now();
    work();
    return performance.now() - start;
  };
  const first = run();
  return { first, warm: Math.min(...Array.from({ length: times }, run)) };
}

/** What a job of forty pulls of a minute costs, each as a ratio to an anchor of the same run (docs/performance.md). */
export function largeJobRatios(print: (line: string) => void): void {
  const job = largeJob();
  const channels = job.pulls.flatMap((p) => p.channels);
  const floats = channels.reduce((sum, c) => sum + c.values.length, 0);
  const pass = timed(() => {
    let sum = 0;
    for (const { values } of channels) for (let i = 0; i < values.length; i += 1) sum += values[i]!;
    return sum;
  }, 5).warm;
  print(
    `large job: ${job.pulls.length} pulls, ${channels.length / job.pulls.length} channels, ${((floats * 8) / 1e6).toFixed(0)} MB; one memory pass ${pass.toFixed(1)} ms`,
  );
  // Cold as on a server: it has made its made-up pulls before there was work, and none of this size.
  const raw = rawWarmUpDay();
  preparePulls(raw.pulls, raw.bay, raw.vehicle);
  const prepare = timed(() => preparePulls(job.pulls, job.bay, job.vehicle), 3);
  const passes = (ms: number) => `${ms.toFixed(0)} ms, ${(ms / pass).toFixed(1)} × the memory pass`;
  print(`preparing from raw channels: cold ${passes(prepare.first)}; warm ${passes(prepare.warm)} (goal 15)`);
  const kept = new PreparedPulls();
  const prepared = kept.of(job);
  const bytes = [...kept.frames.values()].reduce((sum, frame) => sum + frameBytes(frame).length, 0);
  print(`what crosses the wire: ${(bytes / job.pulls.length / 1000).toFixed(0)} kB a pull`);
  let width = 100;
  const curves = timed(() => {
    width = 500 - width;
    return prepared.map((p) => momentsCurve(p.moments, width));
  }, 8);
  print(
    `curves of another averaging: ${curves.first.toFixed(1)} ms cold, ${curves.warm.toFixed(1)} ms warm, ${(curves.warm / FRAME_MS).toFixed(2)} frames`,
  );
  const steps = (until: number) => {
    const all = judgementSteps(job, prepared);
    for (let i = 0; i < until; i += 1) all.next();
  };
  for (const [what, until] of [
    ['curves, corrected', 1],
    ['verdicts', 2],
    ['everything', 3],
  ] as const) {
    const { first, warm } = timed(() => steps(until), 4);
    print(`${what}: ${first.toFixed(0)} ms cold, ${warm.toFixed(0)} ms warm, ${(warm / FRAME_MS).toFixed(1)} frames`);
  }
}

/** How the work grows: the exponent of time over size between two sizes; 1 is proportional. */
export function growth(print: (line: string) => void): void {
  const exponent = (small: number, large: number, times: number) => Math.log(large / small) / Math.log(times);
  const rounds = (count: number, counted: number) =>
    Array.from(
      { length: count },
      (_, i) => [`${i % 2 === 0 ? 'A' : 'B'}${i < 2 ? '' : 1 + (i >> 1)}`, counted] as const,
    );
  const judged = (job: Job) => {
    const prepared = preparePulls(job.pulls, job.bay, job.vehicle);
    return timed(() => judgePrepared(job, prepared, 'verdict'), 2).warm;
  };
  const pulls = (count: number) => {
    const job = curveDay({ seed: 5, rounds: rounds(4, count / 4 - 2), truePercent: 2 });
    return { prepare: timed(() => preparePulls(job.pulls, job.bay, job.vehicle), 3).warm, judge: judged(job) };
  };
  const [few, many] = [pulls(80), pulls(320)];
  print(
    `80 to 320 pulls: preparing grows with the power ${exponent(few.prepare, many.prepare, 4).toFixed(1)}, verdicts with ${exponent(few.judge, many.judge, 4).toFixed(1)} (${few.judge.toFixed(0)} and ${many.judge.toFixed(0)} ms; goal n·log n, 1.2)`,
  );
  const [short, long] = [32, 64].map((count) =>
    judged(curveDay({ seed: 6, rounds: rounds(count, 3), truePercent: 2 })),
  );
  print(
    `32 to 64 rounds of three counted pulls: verdicts grow with the power ${exponent(short!, long!, 2).toFixed(1)} (${short!.toFixed(0)} and ${long!.toFixed(0)} ms; goal 2)`,
  );
  const rate = (every: number) => {
    const job = largeJob();
    const pulls = job.pulls.slice(0, 8).map((p) => ({
      ...p,
      channels: p.channels.map((c) => ({ ...c, values: c.values.filter((_, i) => i % every === 0) })),
    }));
    return timed(() => preparePulls(pulls, job.bay, job.vehicle), 4).warm;
  };
  const [slow, fast] = [rate(4), rate(1)];
  print(
    `25 to 100 Hz: preparing grows with the power ${exponent(slow, fast, 4).toFixed(1)} (${slow.toFixed(0)} and ${fast.toFixed(0)} ms for eight pulls)`,
  );
}
