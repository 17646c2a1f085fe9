import { BadRequestException } from '@nestjs/common';
import { changesText, newSetup, tolerance, type Job, type Setup } from '@prandel/core';
import { setupsWith } from './jobEdits.ts';
import type { AddedSetup } from './jobs.dto.ts';

/** Setups that a job may have, return checks apart. */
const MOST_SETUPS = 12;
const LETTERS = 'BCDEFGHIJKLMNOPQRSTUVWXYZ';

/** The first letter that no setup bears, return checks (`B2`) included. */
function freeLetter({ setups }: Job): string {
  const letter = [...LETTERS].find((own) => !setups.some((s) => s.id === own));
  if (!letter) throw new BadRequestException('Every letter has a setup already. Open another job for the rest.');
  return letter;
}

/**
 * A job with one more setup: a candidate, with a round behind those that are planned, ahead of a last return check.
 * @throws BadRequestException for a letter that is taken, a parent that is not there, and more than twelve setups
 */
export function withAddedSetup(job: Job, body: AddedSetup, now: string): { readonly next: Job; readonly setup: Setup } {
  const id = body.id ?? freeLetter(job);
  if (job.setups.some((s) => s.id === id)) throw new BadRequestException(`Setup ${id} is there already.`);
  if (!job.setups.some((s) => s.id === body.parentId))
    throw new BadRequestException(`There is no setup ${body.parentId} to make it from. Choose another parent.`);
  if (job.setups.filter((s) => s.returnsTo === null).length >= MOST_SETUPS)
    throw new BadRequestException(`A job has at most ${MOST_SETUPS} setups. Open another job for the rest.`);
  const label = body.label?.trim() || `setup ${id}`;
  const begun = job.pulls.some((p) => p.status === 'counted');
  const named: Setup = { ...newSetup(id, label, body.parentId), ...(begun ? { addedAt: now } : {}) };
  const [setup] = setupsWith([named], [{ ...body, id, label }], []) as [Setup];
  const { plan, candidateSetups } = job.question;
  const round = {
    ...{ setup: id, settle: tolerance(job.method, 'settlePulls') },
    counted: plan.find((s) => candidateSetups.includes(s.setup))?.counted ?? tolerance(job.method, 'countedPulls'),
  };
  const last = plan.at(-1);
  const returns = last && job.setups.find((s) => s.id === last.setup)?.returnsTo === job.question.baselineSetup;
  const pulled = returns && job.pulls.some((p) => p.setupId === last.setup);
  const steps = plan.length === 0 ? plan : returns && !pulled ? [...plan.slice(0, -1), round, last] : [...plan, round];
  // An order that was drawn stands; what comes later goes behind it.
  const { drawn } = job.day?.plan ?? {};
  const day = job.day && drawn ? { ...job.day, plan: { ...job.day.plan, drawn: { ...drawn, candidates: [...drawn.candidates, id] } } } : job.day; // prettier-ignore
  return {
    setup,
    next: {
      ...job,
      ...(day ? { day } : {}),
      setups: [...job.setups, setup],
      question: { ...job.question, candidateSetups: [...candidateSetups, id], plan: steps },
    },
  };
}

/** For the job's log. */
export function addedInWords({ id, label, parentId, changes, addedAt }: Setup): string {
  const what = changesText(changes);
  return `Added setup ${id} (${label}), made from ${parentId}${what ? `: ${what}` : ''}${addedAt ? '; its pulls had begun' : ''}.`;
}
