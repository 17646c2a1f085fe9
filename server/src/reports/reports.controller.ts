import { createHash } from 'node:crypto';
import { Controller, Get, Param, ParseUUIDPipe, Query, Res, UseGuards } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { USUAL_UNITS, type ShownUnits } from '@prandel/charts';
import { isUnitName, judgeJob, quantityOf, type Job } from '@prandel/core';
import { writePackage } from '@prandel/formats';
import type { Response } from 'express';
import { createElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { JobsService } from '../jobs/jobs.service.ts';
import { Asker, SignedInGuard } from '../people/people.controller.ts';
import type { Caller } from '../people/people.service.ts';
import { chartSvg } from './chartSvg.ts';
import { fontRules } from './fonts.ts';
import { REPORT_CSS } from './report.css.ts';
import { ReportSheet } from './ReportSheet.tsx';

/** The customer's sheet: self-contained HTML, and the same numbers as JSON. */
@ApiTags('reports')
@UseGuards(SignedInGuard)
@Controller('api/jobs/:id')
export class ReportsController {
  constructor(private readonly jobs: JobsService) {}

  @Get('report.html')
  async html(
    @Asker() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Res() response: Response,
    @Query('download') download?: string,
  ): Promise<void> {
    const { job } = await this.jobs.read(caller, id, true);
    if (download)
      response.setHeader(
        'Content-Disposition',
        `attachment; filename="report-${job.id.replace(/[^A-Za-z0-9._-]+/g, '-')}.html"`,
      );
    response.type('text/html').send(reportHtml(job, caller));
  }

  @Get('report.json')
  async json(
    @Asker() caller: Caller,
    @Param('id', ParseUUIDPipe) id: string,
    @Res() response: Response,
  ): Promise<void> {
    const { job } = await this.jobs.read(caller, id, true);
    const { verdicts, window, declaredWindow, contrasts } = judgeJob(job);
    const body = {
      job: { id: job.id, title: job.title, vehicle: job.vehicle, question: job.question, method: job.method },
      digest: digestOf(job),
      window,
      declaredWindow,
      verdicts: verdicts.map(({ ribbon, ...v }) => ({ ...v, noiseFloorPercent: ribbon?.floorPercent ?? null })),
      contrasts,
    };
    response
      .type('application/json')
      .send(JSON.stringify(body, (_, v: unknown) => (typeof v === 'number' && !Number.isFinite(v) ? null : v)));
  }
}

export function unitsOf(chosen: Record<string, string>): ShownUnits {
  const known = Object.entries(chosen).filter(
    ([quantity, unit]) => quantity in USUAL_UNITS && isUnitName(unit) && quantityOf(unit) === quantity,
  );
  return { ...USUAL_UNITS, ...(Object.fromEntries(known) as Partial<ShownUnits>) };
}

/** SHA-256 over the files of the job's package, in order. */
function digestOf(job: Job): string {
  const hash = createHash('sha256');
  for (const [path, bytes] of writePackage(job)) hash.update(path).update('\n').update(bytes);
  return hash.digest('hex');
}

export function reportHtml(job: Job, caller: Pick<Caller, 'shop' | 'name' | 'units'>): string {
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
