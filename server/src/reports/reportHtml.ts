import { createHash } from 'node:crypto';
import { USUAL_UNITS, type ShownUnits } from '@prandel/presentation';
import { isUnitName, judgeJob, quantityOf, type Job } from '@prandel/core';
import { writePackage } from '@prandel/formats';
import { createElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { chartSvg } from './chartSvg.ts';
import { fontRules } from './fonts.ts';
import { REPORT_CSS } from './report.css.ts';
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

/** SHA-256 over the files of the job's package, in order. */
export function digestOf(job: Job): string {
  const hash = createHash('sha256');
  for (const [path, bytes] of writePackage(job)) hash.update(path).update('\n').update(bytes);
  return hash.digest('hex');
}

export function reportHtml(job: Job, caller: ReportFor): string {
  const judgement = judgeJob(job);
  const units = unitsOf(caller.units);
  const charts = judgement.verdicts
    .filter((v) => v.ribbon)
    .map((v) => ({
      candidate: v.candidate,
      svg: chartSvg({
        job,
        judgement,
        candidate: v.candidate,
        hiddenSetups: new Set(job.setups.filter((s) => s.returnsTo).map((s) => s.id)),
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
    digest: digestOf(job),
    printedAt: new Date().toISOString(),
  });
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escapeHtml(job.title)}</title><style>${fontRules()}${REPORT_CSS}</style></head><body>${renderToStaticMarkup(sheet)}</body></html>`;
}

function escapeHtml(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
}
