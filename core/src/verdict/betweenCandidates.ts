import type { Job } from '../job/job.ts';
import { familywiseCritical } from '../statistics/familywise.ts';
import { steady } from '../statistics/summary.ts';
import { truePercent } from './constants.ts';
import { estimateContrast, type Estimate } from './contrast.ts';
import type { AnalysisSettings } from './estimate.ts';
import type { Fit } from './fit.ts';
import type { Contrast, Difference, Judgement } from './outcome.ts';

/** Pairs of candidates against each other, and the interaction of two factors that were run alone and together. */
export function contrastsOf(job: Job, fit: Fit, settings: AnalysisSettings): Contrast[] {
  const names = fit.design.candidates.map((side) => job.question.candidateSetups[side - 1]!);
  const contrasts: Contrast[] = [];
  const add = (of: Contrast['of'], weights: number[]) => {
    const e = estimateContrast(fit, weights, settings.confidence);
    contrasts.push({ of, ...difference(e, settings), tie: steady(e.low) <= 0 && steady(e.high) >= 0 });
  };
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
  return contrasts;
}

/** An interval on the engine's scale as it leaves the engine. */
function difference(
  { estimate, low, high }: Pick<Estimate, 'estimate' | 'low' | 'high'>,
  settings: AnalysisSettings,
): Difference {
  return settings.endpoint.scale === 'log'
    ? { estimate: truePercent(estimate), low: truePercent(low), high: truePercent(high), unit: '%' }
    : { estimate, low, high, unit: '°C' };
}

function changeSet(job: Job, id: string): string[] {
  const items: string[] = [];
  for (let at: string | null = id, guard = 0; at && at !== job.question.baselineSetup && guard < 50; guard += 1) {
    const setup = job.setups.find((s) => s.id === at);
    if (!setup) break;
    items.push(
      ...setup.changes
        .split(/[;\n]/)
        .map((item) => item.trim().toLowerCase())
        .filter(Boolean),
    );
    at = setup.parentId;
  }
  return items;
}

/** Simultaneous intervals over more than two candidates (docs/method.md, several candidates). */
export function simultaneousOf(job: Job, fit: Fit, settings: AnalysisSettings): Judgement['simultaneous'] {
  const n = fit.design.candidates.length;
  if (n < 3) return [];
  const estimates = fit.design.candidates.map((_, i) =>
    estimateContrast(
      fit,
      fit.design.candidates.map((__, k) => (k === i ? 1 : 0)),
    ),
  );
  let total = 0;
  for (let i = 1; i <= n; i += 1) {
    for (let j = i + 1; j <= n; j += 1)
      total += fit.covariance.get(i, j) / Math.sqrt(fit.covariance.get(i, i) * fit.covariance.get(j, j));
  }
  const c = familywiseCritical(
    n,
    total / ((n * (n - 1)) / 2),
    Math.min(...estimates.map((e) => e.df)),
    settings.confidence,
  );
  return estimates.map((e, i) => ({
    candidate: job.question.candidateSetups[fit.design.candidates[i]! - 1]!,
    ...difference({ estimate: e.estimate, low: e.estimate - c * e.se, high: e.estimate + c * e.se }, settings),
  }));
}
