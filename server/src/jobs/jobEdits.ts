import { BadRequestException } from '@nestjs/common';
import { matters, measureWords, USUAL_UNITS } from '@prandel/presentation';
import {
  measureName,
  newSetup,
  STATE_FIELDS,
  type Bay,
  type JobDay,
  type Job,
  type Question,
  type Setup,
} from '@prandel/core';
import type { CalibrationEdit, DayDto, SetupEdit } from './jobs.dto.ts';

/** The members that a body really holds; a class leaves the others undefined, and they must not overwrite anything. */
export function given<T extends object>(body: T | undefined): Partial<T> {
  return Object.fromEntries(Object.entries(body ?? {}).filter(([, value]) => value !== undefined)) as Partial<T>;
}

/** The day's papers with what a body changes; of a fitting only its words, never its clock, who did it or its photos. */
export function dayWith(before: JobDay, { fittings, plan, intake, cardId: _, ...rest }: DayDto): JobDay {
  const words = new Map(fittings?.map((f) => [f.startedAt, f]));
  return {
    ...before,
    ...(given(rest) as Partial<JobDay>),
    intake: filled({ ...before.intake, ...intake }),
    plan: { ...before.plan, ...given(plan) },
    fittings: before.fittings.map((f) => {
      const own = words.get(f.startedAt);
      if (!own) return f;
      const { changed, disturbed, parts, cost, notes } = own;
      return { ...f, changed, disturbed, parts, cost, notes };
    }),
  };
}

/** The rollers with what a correction names of them. */
export function calibratedBay(before: Bay, { reason: _, ...facts }: CalibrationEdit): Bay {
  return { ...before, ...(given(facts) as Partial<Bay>) };
}

/** What was corrected in a calibration, fact by fact: "roller inertia not known to 26.4 kg·m²". */
export function calibrationChanges(before: Bay, after: Bay): string {
  const facts: [string, (bay: Bay) => string][] = [
    ['kind', ({ kind }) => kind ?? 'not known'],
    ['roller inertia', ({ rollerInertiaKgM2: i }) => (i === null ? 'not known' : `${i} kg·m²`)],
    ['loss torque', ({ lossTorqueNm: c }) => (c === null ? 'not known' : `${c.join('; ')} N·m`)],
    ['read-out scale', ({ readoutScale }) => String(readoutScale)],
    ['elevation', ({ elevationM }) => (elevationM === null ? 'not known' : `${elevationM} m`)],
    ['calibrated since', ({ calibrationEpoch }) => calibrationEpoch ?? 'not known'],
  ];
  return facts
    .filter(([, words]) => words(before) !== words(after))
    .map(([name, words]) => `${name} ${words(before)} to ${words(after)}`)
    .join('; ');
}

const filled = (table: Readonly<Record<string, string>>) =>
  Object.fromEntries(Object.entries(table).filter(([, value]) => value.trim() !== ''));

/** The setups with what a body names of them. @throws BadRequestException for a new one without a name */
export function setupsWith(before: readonly Setup[], edits: readonly SetupEdit[], removed: readonly string[]): Setup[] {
  const patched = (setup: Setup, { id: _, state, outcomes, ...rest }: SetupEdit): Setup => {
    const noted = filled({ ...setup.outcomes, ...outcomes });
    return {
      ...setup,
      ...(given(rest) as Partial<Setup>),
      state: stateWith(setup.state, state),
      ...(Object.keys(noted).length > 0 || setup.outcomes ? { outcomes: noted } : {}),
    };
  };
  const known = before.map((setup) => {
    const edit = edits.find((e) => e.id === setup.id);
    return edit ? patched(setup, edit) : setup;
  });
  const added = edits
    .filter((e) => !before.some((s) => s.id === e.id))
    .map((e) => {
      if (!e.label) throw new BadRequestException(`Setup ${e.id} is new: name it.`);
      return patched(newSetup(e.id, e.label, e.parentId ?? null), e);
    });
  return [...known, ...added].filter((s) => !removed.includes(s.id));
}

function stateWith(before: Setup['state'], edits: Readonly<Record<string, string>> | undefined): Setup['state'] {
  const known = STATE_FIELDS.flatMap((key) => {
    const value = (edits?.[key] ?? before[key])?.trim();
    return value ? [[key, value] as const] : [];
  });
  return Object.fromEntries(known);
}

/** "mean wheel power over the window, 1 % would matter; charge air, at its hottest, 3.0 °C would matter" */
function measuresInWords({ measures }: Question): string {
  return measures
    .map((m) => {
      const window = m.windowRpm ? `, ${m.windowRpm.join('–')} rpm` : '';
      const own = m.target ? `${window}, to ${m.target} N·m` : window;
      return `${measureWords(measureName(m)).name}${own}, ${matters(measureName(m), m.meaningful, USUAL_UNITS)} would matter`;
    })
    .join('; ');
}

/** What changed in a question, part by part: "window 3000–6500 rpm to 3500–6500 rpm". */
export function questionChanges(before: Question, after: Question): string {
  const parts: [string, (q: Question) => string][] = [
    ['words', (q) => `“${q.text}”`],
    ['compared', (q) => `${q.candidateSetups.join(', ')} against ${q.baselineSetup}`],
    ['window', (q) => (q.windowRpm ? `${q.windowRpm.join('–')} rpm` : 'not declared')],
    ['measures', (q) => measuresInWords(q)],
    ['meant to change intake air', (q) => (q.partChangesIntakeTemperature ? 'yes' : 'no')],
    ['plan', (q) => q.plan.map((s) => `${s.setup} ${s.settle}+${s.counted}`).join(', ') || 'none'],
    ['extension', (q) => q.extension ?? 'none'],
  ];
  return parts
    .filter(([, words]) => words(before) !== words(after))
    .map(([name, words]) => `${name} ${words(before)} to ${words(after)}`)
    .join('; ');
}

/** What an edit did, for the job's log. Changes to the question after the first counted pull are named as such. */
export function changesInWords(before: Job, after: Job, counted: boolean, amendment: string): string[] {
  const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b);
  const late = counted ? ' after the first counted pull' : '';
  const words: string[] = [];
  if (differs(before.question, after.question))
    words.push(
      `Changed the question${late}: ${after.question.text}; window ${after.question.windowRpm?.join('–') ?? 'not declared'}, ${measuresInWords(after.question)}.${amendment ? ` Amendment, because: ${amendment}` : ''}`,
    );
  if (differs(before.method, after.method))
    words.push(
      `Changed the method${late}: ${after.method.correction}, averaging ${after.method.averagingWidthRpm} rpm.`,
    );
  if (differs(before.day?.fittings, after.day?.fittings))
    for (const f of after.day?.fittings ?? [])
      if (
        differs(
          f,
          before.day?.fittings.find((b) => b.startedAt === f.startedAt),
        )
      )
        words.push(
          `Wrote about the fitting of ${f.setup}: changed ${f.changed || 'nothing'}; also disturbed ${f.disturbed || 'nothing'}; parts ${f.parts || 'none'}${f.cost === null ? '' : `, cost ${f.cost}`}.`,
        );
  const drawn = after.day?.plan.drawn;
  if (drawn && differs(before.day?.plan.drawn, drawn))
    words.push(`Drew the order of the setups: ${drawn.candidates.join(', ')} (seed ${drawn.seed}).`);
  else if (before.day?.plan.drawn && differs(before.day.plan.order, after.day?.plan.order))
    words.push(
      after.day?.plan.order === 'fixed'
        ? `Left the drawn order ${before.day.plan.drawn.candidates.join(', ')} for a fixed one.`
        : `Went back to the drawn order ${before.day.plan.drawn.candidates.join(', ')}.`,
    );
  else if (differs({ ...before.day, fittings: [], amendments: [] }, { ...after.day, fittings: [], amendments: [] }))
    words.push('Changed the papers of the day.');
  if (differs(before.vehicle, after.vehicle)) words.push('Changed the vehicle.');
  if (differs(before.setups, after.setups)) words.push(`Changed the setups${late}.`);
  return words;
}
