/** The engine by itself, for who calibrates it or holds it against another: values in, an answer out. Log-percent throughout. */
export { answerOf, type Answer } from './answer.ts';
export { aimAt, fit as fitAims, fitContrast, type Aim, type Mixture } from './fit.ts';
export { intervalAt, pairLevel } from './pairs.ts';
export { jobTable, learnedNoise, priorsWith, type JobTable } from './history.ts';
export { usualPrior, type NodePrior } from './model.ts';
export type { EnginePull } from './parts.ts';
export { prepare } from './prepare.ts';
