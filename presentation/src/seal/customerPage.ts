import {
  factsNamed,
  isCurved,
  measureFacts,
  type CandidateVerdict,
  type Job,
  type Judgement,
  type SharedPage,
  type SharedResult,
} from '@prandel/core';
import { gainInterval, type ShownUnits } from '../figures.ts';
import { methodWords } from '../findingWords.ts';
import { nextStep, resultSentence, returnCheckWords, sureWords, verifiedRange } from '../sentences.ts';
import { longDay } from '../times.ts';
import { gainPicture } from './gainPicture.ts';

/** The picture's size on a phone, CSS pixels. */
const PICTURE = { width: 360, height: 190 };

/** What a customer's page shows of a judged job, in the units of whoever seals it. */
export function customerPage(job: Job, judgement: Judgement, units: ShownUnits): SharedPage {
  return {
    number: job.id,
    question: job.question.text || job.title,
    vehicle: job.vehicle.label || 'Vehicle not named',
    customer: job.day?.customer ?? null,
    day: job.openedAt ? longDay(job.openedAt, job.timeZone) : null,
    bay: job.bay.label,
    results: judgement.verdicts.map((v): SharedResult => {
      const gain = v.gain && gainInterval(v.gain, units);
      return {
        ...{ setup: v.candidate, measure: v.measure, verdict: v.verdict },
        label: job.setups.find((s) => s.id === v.candidate)?.label ?? v.candidate,
        sentence: resultSentence(job, v, units, judgement.window),
        estimate: gain?.estimate ?? null,
        unit: gain?.unit ?? null,
        sure: sureWords(v, units),
        picture: gainPicture(v, units, PICTURE),
        means: meaning(v),
      };
    }),
    how: howMeasured(job, judgement, units),
  };
}

/** "What this means" for somebody who has never read an interval. */
function meaning(v: CandidateVerdict): string[] {
  const rest = [verifiedRange(v), nextStep(v)].filter((words) => words !== '');
  switch (v.verdict) {
    case 'verified-gain':
    case 'verified-loss':
      return [
        'We are as sure of this as measuring allows: if there had been no change, a day like this one would have shown it in fewer than one case of twenty.',
        ...rest,
      ];
    case 'no-meaningful-change':
      return ['A change as large as was agreed to matter would have shown itself. It did not.', ...rest];
    case 'not-resolved':
      return [
        'The pulls of this day differ too much from each other to say more. This is no proof that nothing changed.',
        ...rest,
      ];
    case 'not-comparable':
      return ['Before and after were not measured alike, so the difference is not the part’s alone.', ...rest];
    default:
      return v.verdict satisfies never;
  }
}

function howMeasured(job: Job, judgement: Judgement, units: ShownUnits): string[] {
  const v = judgement.verdicts[0];
  if (!v) return [];
  const { baseline, candidate } = v.pulls;
  const curved = job.question.measures.every((m) => isCurved(measureFacts(m)));
  return [
    `${baseline.counted} counted pulls before and ${candidate.counted} after; ${baseline.settle + candidate.settle} settle pulls and ${baseline.setAside + candidate.setAside} set aside, all of them in the report with their reasons.`,
    ...[returnCheckWords(job, v, units)].filter((words) => words !== ''),
    ...(curved
      ? ['At the wheels on rollers, at full throttle: not the engine power of a brochure, and no road test.']
      : []),
    ...judgement.verdicts
      .filter((own) => own.candidate === v.candidate && isCurved(factsNamed(own.measure)))
      .map((own) => methodWords(own.method)),
  ];
}
