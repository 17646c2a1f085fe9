import { repeatedSetup, type Job } from '../job/job.ts';
import type { ConditionFinding } from './conditions.ts';
import type { AnalysisSettings, SideEstimate } from './estimate.ts';
import type { Selection } from './selection.ts';

interface NotedInput {
  readonly job: Job;
  readonly selection: Selection;
  readonly settings: AnalysisSettings;
  readonly candidate: string;
  readonly side: number;
}

/** What a reader of the verdict should know, short of making the pair not comparable. */
export function notesOn(
  { job, selection, settings, candidate, side }: NotedInput,
  result: SideEstimate | null,
): ConditionFinding[] {
  const findings: ConditionFinding[] = [];
  const info = (code: string, text: string) => findings.push({ code, severity: 'info', text });
  const used = selection.used.filter((c) => c.side === 0 || c.side === side);
  if (!job.question.windowRpm && selection.declaredWindow)
    info(
      'no-window',
      `No window was declared: ${selection.declaredWindow.join('–')} rpm, what the pulls usually cover, was taken.`,
    );
  if (settings.heat === 'missing')
    info(
      'no-start-temperature',
      'Start temperatures are missing, so heat is not adjusted for and the interval is wider.',
    );
  if (settings.heat === 'meant-to-change' && job.question.partChangesIntakeTemperature)
    info('meant-to-cool', 'The part is meant to change the intake air: its cooling is part of the gain.');
  if (settings.heat === 'adjusted' && !selection.airKnown)
    info('absolute-start', 'The bay’s air was not recorded: start temperatures are taken as they stand.');
  if (selection.corrected && used.some((c) => c.weather.humidityAssumed))
    info('humidity', 'Humidity was not measured: 50 % was taken.');
  if (!job.bay.lossTorqueNm && used.some((c) => c.findings.some((f) => f.code === 'no-loss-data')))
    info('no-loss', 'The rollers’ own loss is not known and taken as zero.');
  if (result && result.fit.design.brackets.length === 0)
    info('no-return', 'No return check: what the day itself did cannot be told apart, so the interval is wide.');
  if (job.question.extension === 'undeclared')
    info(
      'undeclared-extension',
      'Pulls were added after the result was seen: false claims are more likely than stated.',
    );
  if (candidateCutShort(selection, side)) info('cut-short', 'Pulls that were cut short were left out.');
  if (used.some((c) => c.findings.some((f) => f.code === 'outside-validity')))
    info('outside-validity', 'The air was outside the correction standard’s stated validity.');
  if (job.method.correction === 'iso-1585-ci' && !job.method.compressionIgnition)
    info(
      'no-engine-data',
      'ISO 1585 for compression ignition needs fuel per cycle and boost ratio: the numbers are not corrected.',
    );
  const chain = job.setups.filter((s) => repeatedSetup(job.setups, s.id) === candidate);
  if (chain.some((s) => s.closedCourseOnly))
    info('closed-course', 'Closed course only: this change can be unlawful on the road; check the local rules.');
  return findings;
}

function candidateCutShort(selection: Selection, side: number): boolean {
  return selection.all.some((c) => (c.side === 0 || c.side === side) && c.findings.some((f) => f.code === 'cut-short'));
}
