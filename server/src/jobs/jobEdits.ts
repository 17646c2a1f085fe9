import type { DayPapers, Job, Question } from '@prandel/core';
import type { DayDto } from './jobs.dto.ts';

/** The members that a body really holds; a class leaves the others undefined, and they must not overwrite anything. */
export function given<T extends object>(body: T | undefined): Partial<T> {
  return Object.fromEntries(Object.entries(body ?? {}).filter(([, value]) => value !== undefined)) as Partial<T>;
}

/** The day's papers with what a body changes; of a fitting only its words, never its clock, who did it or its photos. */
export function dayWith(before: DayPapers, { fittings, plan, ...rest }: DayDto): DayPapers {
  const words = new Map(fittings?.map((f) => [f.startedAt, f]));
  return {
    ...before,
    ...(given(rest) as Partial<DayPapers>),
    plan: { ...before.plan, ...given(plan) },
    fittings: before.fittings.map((f) => {
      const own = words.get(f.startedAt);
      if (!own) return f;
      const { changed, disturbed, parts, cost, notes } = own;
      return { ...f, changed, disturbed, parts, cost, notes };
    }),
  };
}

/** What changed in a question, part by part: "window 3000–6500 rpm to 3500–6500 rpm". */
export function questionChanges(before: Question, after: Question): string {
  const parts: [string, (q: Question) => string][] = [
    ['words', (q) => `“${q.text}”`],
    ['compared', (q) => `${q.candidateSetups.join(', ')} against ${q.baselineSetup}`],
    ['window', (q) => (q.windowRpm ? `${q.windowRpm.join('–')} rpm` : 'not declared')],
    ['measure', (q) => q.measure],
    ['gain that matters', (q) => `${q.meaningfulGainPercent} %`],
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
      `Changed the question${late}: ${after.question.text}; window ${after.question.windowRpm?.join('–') ?? 'not declared'}, gain that matters ${after.question.meaningfulGainPercent} %.${amendment ? ` Amendment, because: ${amendment}` : ''}`,
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
