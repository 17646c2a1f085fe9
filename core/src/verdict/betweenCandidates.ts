import { changesAgainst } from '../job/changes.ts';
import type { Job } from '../job/job.ts';
import { measureName } from '../measures/declaredMeasure.ts';
import { steady } from '../statistics/summary.ts';
import { merged, mixtureMean, mixtureQuantile, noiseOf } from './engine/answer.ts';
import { combinedAim, fit } from './engine/fit.ts';
import { covarianceAt } from './engine/parts.ts';
import { weighedDays } from './engine/plugIn.ts';
import { endsAt, pairLevel } from './engine/pairs.ts';
import { candidateCorrelation, together } from './engine/together.ts';
import { contrastOf, type MeasuredDay } from './measuredDay.ts';
import type { Contrast, Difference, Judgement } from './outcome.ts';
import { truePercent } from './percent.ts';
import type { AnalysisSettings } from './settings.ts';

/** Pairs of candidates against each other, and the interaction of two factors that were run alone and together. */
export function contrastsOf(job: Job, day: MeasuredDay, settings: AnalysisSettings): Contrast[] {
  const names = day.sides.map((side) => job.question.candidateSetups[side - 1]!);
  const wanted: { readonly of: Contrast['of']; readonly weights: readonly number[] }[] = [];
  const add = (of: Contrast['of'], weights: readonly number[]) => wanted.push({ of, weights });
  names.forEach((a, i) =>
    names.forEach((b, j) => {
      if (i < j)
        add(
          { kind: 'pair', candidate: b, against: a },
          names.map((_, k) => (k === j ? 1 : k === i ? -1 : 0)),
        );
    }),
  );
  const items = (id: string) => changeSet(job, id);
  names.forEach((both, t) =>
    names.forEach((a, i) =>
      names.forEach((b, j) => {
        if (i >= j || t === i || t === j) return;
        const union = [...items(a), ...items(b)];
        const disjoint = items(a).every((item) => !items(b).includes(item));
        if (!disjoint || items(a).length === 0 || items(b).length === 0) return;
        if (union.length === items(both).length && union.every((item) => items(both).includes(item))) {
          add(
            { kind: 'interaction', both, alone: [a, b] },
            names.map((_, k) => (k === t ? 1 : k === i || k === j ? -1 : 0)),
          );
        }
      }),
    ),
  );
  if (wanted.length === 0) return [];
  const { confidence } = settings;
  const aims = wanted.map(({ weights }) => combinedAim(day.prepared, day.aims, weights));
  // All pairs of setups at once, the baseline among them.
  const level = pairLevel(names.length + 1, confidence);
  return fit(day.prepared, day.values, aims, settings.priors.prior).map((mixture, i) => {
    const read = merged(mixture);
    const [low, high] = [mixtureQuantile(read, (1 - confidence) / 2), mixtureQuantile(read, (1 + confidence) / 2)];
    const tie = steady(low) <= 0 && steady(high) >= 0;
    const estimate = mixtureMean(mixture);
    const { of } = wanted[i]!;
    const wide = of.kind === 'pair' ? { estimate, ...endsAt(read, level) } : null;
    const together = wide && difference(wide, settings);
    return {
      ...{ of, measure: measureName(settings.endpoint.measure) },
      ...difference({ estimate, low, high }, settings),
      ...{ tie, together: together && { low: together.low, high: together.high } },
    };
  });
}

/** An interval on the engine's scale as it leaves the engine. */
function difference(
  engine: { readonly estimate: number; readonly low: number; readonly high: number },
  { endpoint }: AnalysisSettings,
): Difference {
  const [estimate, low, high] = [engine.estimate, engine.low, engine.high].map((v) => endpoint.factor * v) as [
    number,
    number,
    number,
  ];
  return endpoint.scale === 'log'
    ? { estimate: truePercent(estimate), low: truePercent(low), high: truePercent(high), unit: '%' }
    : { estimate, low, high, unit: endpoint.unit };
}

/** What a setup changes against the baseline, a key a change: the same kind in the same words is the same change. */
function changeSet(job: Job, id: string): string[] {
  return changesAgainst(job.setups, id, job.question.baselineSetup).map(({ text }) => text.trim().toLowerCase());
}

/** Intervals that hold for all candidates at once, from two on (docs/method.md, several candidates). */
export function simultaneousOf(job: Job, day: MeasuredDay, settings: AnalysisSettings): Judgement['simultaneous'] {
  if (day.sides.length < 2) return [];
  const { prepared, mixtures } = day;
  const node = noiseOf(prepared.model, day.noise).geometric;
  const weights = weighedDays(prepared, day.sides.map(contrastOf), node).map((w) => w.weights);
  const covariance = covarianceAt(prepared, node.mount, node.drift);
  for (let i = 0; i < prepared.pulls.length; i += 1) covariance[i * (prepared.pulls.length + 1)]! += node.scatter ** 2;
  return together(
    mixtures.map((m) => merged(m)),
    candidateCorrelation(weights, covariance),
    settings.confidence,
  ).map(({ low, high }, i) => ({
    candidate: job.question.candidateSetups[day.sides[i]! - 1]!,
    measure: measureName(settings.endpoint.measure),
    ...difference({ estimate: mixtureMean(mixtures[i]!), low, high }, settings),
  }));
}
