import { planComplete } from '../bay/roundProgress.ts';
import { pullsInOrder, type Job } from '../job/job.ts';
import { pullWeather } from '../job/weather.ts';
import { median } from '../statistics/summary.ts';
import { measuredBands } from './bands.ts';
import type { BayRecord, NoiseClass } from './bayPrior.ts';
import { endpointOf, inEngine } from './endpoint.ts';
import { jobTable } from './engine/history.ts';
import { modelOf } from './engine/model.ts';
import { prepare } from './engine/prepare.ts';
import { measureName } from '../measures/declaredMeasure.ts';
import { measureFacts } from '../measures/measureFacts.ts';
import type { JudgedPull, Judgement } from './outcome.ts';
import { roundKeys } from './rounds.ts';
import { sideOfSetup } from './selection.ts';
import { noiseClassOf, wasUnstrapped } from './settings.ts';

const NOTHING: BayRecord = { tables: [], returnChecks: 0, minutesPerPull: null };

/**
 * What a finished job leaves to its bay: one table for the power over the window, one for each band, one for a temperature or
 * a pressure that was asked about. Pulls that bear a mark (a gate overridden) or were left out say nothing about how the bay repeats.
 * @example bayRecord(newJob('1', 'x'), judgeJob(newJob('1', 'x'))).tables // []
 */
export function bayRecord(job: Job, judgement: Judgement): BayRecord {
  if (job.day && !planComplete(job)) return NOTHING;
  const pullOf = new Map(job.pulls.map((p) => [p.id, p]));
  const clean = judgement.pulls.filter((p) => p.used && !pullOf.get(p.id)!.marks?.length && p.windowMeanW > 0);
  if (clean.length < 2) return NOTHING;
  const keys = roundKeys(clean.map((p) => ({ ...p, round: pullOf.get(p.id)!.round })));
  const names = [...new Set(keys)];
  const side = (p: JudgedPull) => sideOfSetup(job, p.setupId)!;
  const setups = new Set(clean.map(side));
  const pulls = clean.map((p, i) => ({
    setup: side(p),
    round: names.indexOf(keys[i]!),
    hours: p.hours,
    startC: p.startAboveAirC,
  }));
  const options = {
    model: modelOf(job.bay.verdictConstants),
    unstrapped: wasUnstrapped(job, (id) => clean.some((p) => p.setupId === id)),
    meantToChange: job.question.partChangesIntakeTemperature,
  };
  const prepared = prepare(pulls, options);
  const returnChecks = names.length - setups.size;
  const minutesPerPull = intervalOf(job);
  if (prepared.projection.degrees === 0) return { ...NOTHING, minutesPerPull };
  const power = measureFacts({ id: 'windowMeanPower' });
  const table = (noiseClass: NoiseClass, values: readonly number[]) => ({
    noiseClass,
    table: jobTable(prepared, values),
  });
  const tables = [
    table(
      'power',
      clean.map((p) => inEngine(power, p.windowMeanW)),
    ),
    ...measuredBands(clean.map((p) => p.power)).map(({ means }) =>
      table(
        'bands',
        means.map((value) => inEngine(power, value)),
      ),
    ),
    ...readingTables(job, judgement, clean, pulls, options),
    ...responseTables(job, judgement, options),
  ];
  return { tables, returnChecks, minutesPerPull };
}

/** One table for every temperature or pressure that was asked about and that every clean pull reads on. */
function readingTables(
  job: Job,
  { window }: Judgement,
  clean: readonly JudgedPull[],
  pulls: Parameters<typeof prepare>[0],
  options: Parameters<typeof prepare>[1],
): BayRecord['tables'] {
  const own = new Map(job.pulls.map((p) => [p.id, p]));
  const air = clean.map((p) => pullWeather(job, own.get(p.id)!));
  const aboveAir = air.every(({ airC }) => airC !== null);
  return job.question.measures.flatMap((measure) => {
    const endpoint = endpointOf(measure, aboveAir);
    const noiseClass = noiseClassOf(endpoint);
    if (noiseClass === null || noiseClass === 'power' || noiseClass === 'time' || !window) return [];
    const values = clean.map((p, i) =>
      inEngine(endpoint, endpoint.read({ ...p, pull: own.get(p.id)!, weather: air[i]! }, window)),
    );
    if (!values.every(Number.isFinite)) return [];
    return [{ noiseClass, table: jobTable(prepare(pulls, { ...options, meantToChange: true }), values) }];
  });
}

/** One table for every response that was asked about, of the roll-ons that met their target. */
function responseTables(job: Job, judgement: Judgement, options: Parameters<typeof prepare>[1]): BayRecord['tables'] {
  const own = new Map(job.pulls.map((p) => [p.id, p]));
  const clean = judgement.pulls.filter((p) => p.used && p.readings.rollOn && !own.get(p.id)!.marks?.length);
  const keys = roundKeys(clean.map((p) => ({ ...p, round: own.get(p.id)!.round })));
  const names = [...new Set(keys)];
  const pulls = clean.map((p, i) => ({
    ...{ setup: sideOfSetup(job, p.setupId)!, round: names.indexOf(keys[i]!), hours: p.hours, startC: null },
  }));
  return job.question.measures.flatMap((measure) => {
    const target = judgement.verdicts.find((v) => v.measure === measureName(measure))?.method.targetNm;
    const endpoint = endpointOf(measure, false, measure.target ?? target ?? NaN);
    if (noiseClassOf(endpoint) !== 'time' || clean.length < 2) return [];
    const values = clean.map((p) =>
      inEngine(
        endpoint,
        endpoint.read({ ...p, pull: own.get(p.id)!, weather: pullWeather(job, own.get(p.id)!) }, [0, 0]),
      ),
    );
    const prepared = prepare(pulls, { ...options, meantToChange: true });
    if (!values.every(Number.isFinite) || prepared.projection.degrees === 0) return [];
    return [{ noiseClass: 'time' as const, table: jobTable(prepared, values) }];
  });
}

function intervalOf(job: Job): number | null {
  const pulls = pullsInOrder(job.pulls);
  const minutes = pulls.slice(1).flatMap((pull, i) => {
    const before = pulls[i]!;
    if (pull.setupId !== before.setupId || pull.round !== before.round || !pull.startedAt || !before.startedAt)
      return [];
    return [(Date.parse(pull.startedAt) - Date.parse(before.startedAt)) / 60_000];
  });
  return minutes.length < 2 ? null : median(minutes);
}
