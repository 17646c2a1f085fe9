import { createHash } from 'node:crypto';
import { USUAL_UNITS, type ShownUnits } from '@prandel/presentation';
import { isUnitName, measureName, quantityOf, standings, type RecordedPart } from '@prandel/core';
import { SEAL_PLACE, writePackage } from '@prandel/formats';
import { createElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import type { FramedJob } from '../frames/madeFrames.ts';
import type { JobFrames } from '../frames/pullFrames.ts';
import { judged } from '../work/begunJudgements.ts';
import { chartSvg } from './chartSvg.ts';
import { fontRules } from './fonts.ts';
import { REPORT_CSS } from './report.css.ts';
import type { PrintedSeal } from './reportInput.ts';
import { ReportSheet } from './ReportSheet.tsx';

/** Who asks for a report, and in which units they read. */
export interface ReportFor {
  readonly shop: string;
  readonly name: string;
  readonly units: Record<string, string>;
}

export function unitsOf(chosen: Record<string, string>): ShownUnits {
  const known = Object.entries(chosen).filter(
    ([quantity, unit]) => quantity in USUAL_UNITS && isUnitName(unit) && quantityOf(unit) === quantity,
  );
  return { ...USUAL_UNITS, ...(Object.fromEntries(known) as Partial<ShownUnits>) };
}

/** A job with its prepared pulls, and the digests of its samples by pull. */
export type ReportedJob = FramedJob & Pick<JobFrames, 'samples'>;

/** SHA-256 over the tables of the job's package and the digest of every pull's samples, in order (docs/job-package.md, digest). */
export function digestOf({ job, samples }: Pick<ReportedJob, 'job' | 'samples'>): string {
  const hash = createHash('sha256');
  const tables = writePackage({ ...job, pulls: job.pulls.map((p) => ({ ...p, channels: [] })) });
  for (const [path, bytes] of tables) hash.update(path).update('\n').update(bytes);
  for (const { id } of job.pulls) hash.update(`${id}\n${samples.get(id) ?? ''}\n`);
  return hash.digest('hex');
}

/** Of more candidates than this not every pair has a picture of its own: the ranking shows them. */
const MOST_PICTURES = 3;

export function reportHtml(
  framed: ReportedJob,
  caller: ReportFor,
  recorded: readonly RecordedPart[] = [],
  seal: PrintedSeal | null = null,
): string {
  const { job } = framed;
  const judgement = judged(framed, 'full');
  const units = unitsOf(caller.units);
  const { candidateSetups, measures } = job.question;
  const pictured =
    candidateSetups.length > MOST_PICTURES
      ? standings(job, judgement, { measure: measureName(measures[0]!), by: 'sure', recorded })
          .ranked.slice(0, MOST_PICTURES)
          .map((s) => s.setup)
      : candidateSetups;
  const charts = judgement.verdicts
    .filter((v) => v.ribbon && pictured.includes(v.candidate))
    .map((v) => ({
      ...{ candidate: v.candidate, measure: v.measure },
      svg: chartSvg({
        job,
        judgement,
        ...{ candidate: v.candidate, measure: v.measure },
        hiddenSetups: new Set(
          job.setups
            .filter(
              (s) =>
                s.returnsTo ||
                (candidateSetups.length > 2 && ![job.question.baselineSetup, v.candidate].includes(s.id)),
            )
            .map((s) => s.id),
        ),
        hiddenPulls: new Set(),
        showPulls: true,
        showSetAside: false,
        units,
        size: { width: 912, power: 170, torque: 90, ribbon: 100 },
        fontSize: 12,
      }),
    }));
  const sheet = createElement(ReportSheet, {
    shop: caller.shop,
    person: caller.name,
    job,
    judgement,
    units,
    charts,
    recorded,
    digest: digestOf(framed),
    seal,
    printedAt: seal?.sealedAt ?? new Date().toISOString(),
  });
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escapeHtml(job.title)}</title><style>${fontRules()}${REPORT_CSS}</style></head><body>${renderToStaticMarkup(sheet)}${seal ? SEAL_PLACE : ''}</body></html>`;
}

function escapeHtml(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
}
