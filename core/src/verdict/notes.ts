import { repeatedSetup, type Job } from '../job/job.ts';
import {
  conditionFinding,
  type ConditionFinding,
  type ConditionFindingCode,
  type ConditionFindingParameters,
} from './conditionFindings.ts';
import { isOfRoad } from '../measures/declaredMeasure.ts';
import { isCurved } from '../measures/measureFacts.ts';
import { nodeWeights } from './engine/answer.ts';
import { unlikeToday } from './engine/history.ts';
import type { MeasuredDay } from './measuredDay.ts';
import { RETURN_CHECKS_NEEDED } from './bayPrior.ts';
import type { Selection } from './selection.ts';
import type { AnalysisSettings } from './settings.ts';

interface NotedInput {
  readonly job: Job;
  readonly selection: Selection;
  readonly settings: AnalysisSettings;
  readonly candidate: string;
  readonly side: number;
}

/** Over this share of the weight the bay is not itself today. */
const UNLIKE_SHARE = 0.5;

/** What a reader of the verdict should know, short of making the pair not comparable. */
export function notesOn(
  { job, selection, settings, candidate, side }: NotedInput,
  day: MeasuredDay | null,
): ConditionFinding[] {
  const findings: ConditionFinding[] = [];
  const info = <Code extends ConditionFindingCode>(code: Code, parameters: ConditionFindingParameters[Code]) =>
    findings.push(conditionFinding(code, 'info', parameters));
  const onRoad = isOfRoad(settings.endpoint.measure.id);
  const used = selection.used.filter((c) => c.side === 0 || c.side === side);
  if (!onRoad && !job.question.windowRpm && selection.declaredWindow)
    info('no-window', { takenRpm: selection.declaredWindow });
  if (settings.heat === 'missing') info('no-start-temperature', {});
  if (isCurved(settings.endpoint) && job.question.partChangesIntakeTemperature) info('meant-to-cool', {});
  if (settings.heat === 'adjusted' && !selection.airKnown) info('absolute-start', {});
  if (!onRoad && selection.corrected && used.some((c) => c.weather.humidityAssumed)) info('humidity', {});
  if (!job.bay.lossTorqueNm && used.some((c) => c.findings.some((f) => f.code === 'no-loss-data'))) info('no-loss', {});
  if (day && day.brackets.length === 0) info('no-return', {});
  const known = job.bay.prior?.returnChecks ?? 0;
  if (!onRoad && known < RETURN_CHECKS_NEEDED) info('drift-not-known', { known, needed: RETURN_CHECKS_NEEDED });
  const unlike = day && job.bay.prior ? unlikeToday(settings.priors, nodeWeights(day.noise)) : 0;
  if (settings.priors.prior !== settings.priors.usual && unlike > UNLIKE_SHARE)
    findings.push(conditionFinding('unlike-this-bay', 'warning', { percent: 100 * unlike }));
  if (job.question.extension === 'undeclared') info('undeclared-extension', {});
  if (candidateCutShort(selection, side)) info('cut-short', {});
  if (used.some((c) => c.findings.some((f) => f.code === 'outside-validity'))) info('outside-validity', {});
  if (!onRoad && job.method.correction === 'iso-1585-ci' && !job.method.compressionIgnition) info('no-engine-data', {});
  const chain = job.setups.filter((s) => repeatedSetup(job.setups, s.id) === candidate);
  if (chain.some((s) => s.closedCourseOnly)) info('closed-course', {});
  return findings;
}

function candidateCutShort(selection: Selection, side: number): boolean {
  return selection.all.some((c) => (c.side === 0 || c.side === side) && c.findings.some((f) => f.code === 'cut-short'));
}
