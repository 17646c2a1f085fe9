import {
  crossedIn,
  factsNamed,
  judgeJob,
  ledgerOf,
  standings,
  type CandidateVerdict,
  type Gain,
  type Job,
  type Judgement,
  type SealCheck,
  type SetupPeaks,
} from '@prandel/core';
import {
  conditionWords,
  methodWords,
  pullFindingWords,
  sealCheckWords,
  verdictReasonWords,
} from '@prandel/presentation';
import { brokenEvidence, nodeSha256, readPackage, UnreadableError } from '@prandel/formats';
import { packageFiles } from './packageSource.ts';

/** Judges packages in the order given; one JSON document a line. Exit 0 for any verdict, 2 when one could not be read. */
export async function judgeCommand(paths: readonly string[], print: (line: string) => void): Promise<number> {
  let code = 0;
  for (const path of paths) {
    try {
      const files = await packageFiles(path);
      const { job } = readPackage(files);
      const judgement = judgeJob(job);
      const broken = brokenEvidence(files, job, nodeSha256);
      print(
        json({
          package: path,
          ...judgementDocument(judgement),
          ...shootoutDocument(job, judgement),
          evidence: evidenceDocument(broken),
        }),
      );
    } catch (error) {
      const message =
        error instanceof UnreadableError
          ? error.message
          : `The package could not be judged: ${(error as Error).message}`;
      print(json({ package: path, error: message }));
      code = 2;
    }
  }
  return code;
}

/** What does not hold of a package's log or seal, in one finding; null when nothing contradicts itself. */
function evidenceDocument(broken: readonly SealCheck[]) {
  if (broken.length === 0) return null;
  const text = broken.slice(0, 3).map(sealCheckWords).join(' ');
  return {
    ...{ code: 'evidence-broken', severity: 'warning' },
    checks: broken.map(({ code, parameters }) => ({ code, parameters })),
    text: broken.length > 3 ? `${text} And ${broken.length - 3} more; ./prandel verify names all.` : text,
  };
}

/** JSON without NaN or infinities: null instead. */
function json(value: unknown): string {
  return JSON.stringify(value, (_, v: unknown) => (typeof v === 'number' && !Number.isFinite(v) ? null : v));
}

/** The judgement as the open format prints it. */
export function judgementDocument(judgement: Judgement) {
  return {
    verdicts: judgement.verdicts.map((v) => verdictDocument(v, judgement)),
    windowRpm: judgement.window,
    contrasts: judgement.contrasts,
    simultaneous: judgement.simultaneous,
  };
}

/** Ranks, crossed factors and the ledger of a job with several candidates, a list a measure; costs as far as the package says them. */
export function shootoutDocument(job: Job, judgement: Judgement) {
  if (job.question.candidateSetups.length < 2) return {};
  const measures = [...new Set(judgement.verdicts.map((v) => v.measure))];
  return {
    ranks: measures.map((measure) => {
      const { ranked, unranked, ties, first } = standings(job, judgement, { measure, by: 'sure' });
      return {
        ...{ measure, first, ties: ties.map(([from, to]) => ranked.slice(from, to + 1).map((s) => s.setup)) },
        setups: [...ranked, ...unranked].map((s) => ({
          ...{ setup: s.setup, place: s.rank, unranked: s.unranked, sure: s.sure, dominated: s.dominated },
          ...{ cost: s.cost, costPerUnit: s.perUnit, costPerSureUnit: s.perSureUnit },
        })),
      };
    }),
    crossed: measures.flatMap((measure) => crossedIn(job, judgement, measure)),
    ledger: measures.flatMap((measure) => {
      const ledger = ledgerOf(job, judgement, measure);
      return ledger
        ? [{ measure, steps: ledger.steps.map(({ setup, ...step }) => ({ setup: setup.id, ...step })) }]
        : [];
    }),
  };
}

function verdictDocument(v: CandidateVerdict, judgement: Judgement) {
  const { unit, better } = factsNamed(v.measure);
  const schools = Object.fromEntries(
    v.schools.map((s) => [s.id, { percent: s.percent, w: unit === 'W' ? s.value : null, value: s.value }]),
  );
  const none = { percent: null, w: null, value: null };
  return {
    candidate: v.candidate,
    baseline: v.baseline,
    verdict: v.verdict,
    reason: { code: v.reason, text: verdictReasonWords(v, v.conditions.findings) },
    smallerThanMatters: v.smallerThanMatters,
    measure: v.measure,
    ...{ unit, better, meaningful: v.meaningful, levels: v.levels },
    gain: gainDocument(v.gain),
    bands: v.bands.map((b) => ({
      fromRpm: b.fromRpm,
      toRpm: b.toRpm,
      percent: b.percent,
      lowPercent: b.lowPercent,
      highPercent: b.highPercent,
      verified: b.verified,
    })),
    peaks: { baseline: peaksDocument(v.peaks.baseline), candidate: peaksDocument(v.peaks.candidate) },
    schools: { bestOfEach: none, mean: none, trimmedMean: none, samePosition: none, ...schools },
    pulls: { baseline: v.pulls.baseline, candidate: v.pulls.candidate },
    flagged: judgement.pulls
      .filter((p) => p.findings.some((f) => f.code === 'partial-dip' || f.code === 'unlike-the-others'))
      .map((p) => p.id),
    conditions: {
      comparable: v.conditions.comparable,
      findings: v.conditions.findings.map((f) => ({ ...f, text: conditionWords(f, v) })),
    },
    pullFindings: judgement.pulls
      .filter((p) => p.findings.length > 0)
      .map((p) => ({
        pull: p.id,
        used: p.used,
        findings: p.findings.map((f) => ({ ...f, text: pullFindingWords(f) })),
      })),
    morePullsNeeded: v.morePullsNeeded?.pulls ?? null,
    morePullsPlan: v.morePullsNeeded,
    suspected: v.suspected.map(({ pullId, likely, repeat }) => ({ pull: pullId, likely, repeat })),
    steps: v.steps,
    width: v.width,
    narrower: v.narrower,
    uncorrected: v.uncorrected && { verdict: v.uncorrected.verdict, gain: gainDocument(v.uncorrected.gain) },
    method: methodWords(v.method),
  };
}

function gainDocument(gain: Gain | null) {
  if (!gain) return null;
  const { percent, lowPercent, highPercent, confidence, value, lowValue, highValue, unit, p } = gain;
  return {
    w: unit === 'W' ? value : null,
    value,
    lowValue,
    highValue,
    unit,
    percent,
    lowPercent,
    highPercent,
    confidence,
    p,
  };
}

function peaksDocument(peaks: SetupPeaks | null) {
  return (
    peaks && {
      powerW: peaks.power.value,
      atRpm: peaks.power.rpm,
      torqueNm: peaks.torque.value,
      torqueAtRpm: peaks.torque.rpm,
      reached: peaks.power.reached,
    }
  );
}
