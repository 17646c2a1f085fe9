import { useState } from 'react';
import type { Job } from '@prandel/core';
import { ask, Refusal, send, type Schemas } from '../../api/client.ts';
import { useWork } from '../../parts/useWork.ts';
import { dayOf, NO_ANSWERS, proposedAnswers, type Day, type Laid } from './dayState.ts';
import type { Dropped } from '../../parts/droppedFiles.ts';
import type { ShapeOfFiles } from './NumbersCard.tsx';

/** Files that were read and laid out, before anything of them is stored. */
export interface StagedDay {
  readonly shapes: readonly ShapeOfFiles[];
  readonly pulls: readonly Laid[];
  readonly unlaid: readonly Schemas['UnlaidFile'][];
  /** Files that cannot be read, or are none of pulls. */
  readonly refused: readonly { readonly name: string; readonly problems: readonly Schemas['ProblemDto'][] }[];
  readonly leftOut: readonly string[];
  readonly changedAt: ReadonlyMap<string, string | null>;
}

export const MOST_FILES = 500;

/** Reads files, lays them out, and lays them out again when somebody says what their columns are. */
export function useStagedDay(
  jobId: string,
  job: Job,
  timeZone: string,
  /** @param before the pulls as they were laid out before; null for other files */
  onLaid: (day: Day, pulls: readonly Laid[], before: readonly Laid[] | null) => void,
) {
  const work = useWork();
  const [staged, setStaged] = useState<StagedDay | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [what, setWhat] = useState('');

  const layOut = async (
    shapes: readonly ShapeOfFiles[],
    changedAt: StagedDay['changedAt'],
    rest: Pick<StagedDay, 'refused' | 'leftOut'>,
    before: readonly Laid[] | null,
  ) => {
    const files = shapes.flatMap((s, shape) =>
      s.files.map((f) => ({ id: f.id!, shape, changedAt: changedAt.get(f.id!) ?? null })),
    );
    if (files.length === 0) return setStaged({ ...rest, shapes, changedAt, pulls: [], unlaid: [] });
    const body = { files, timeZone, shapes: shapes.map(({ columns, answers }) => ({ columns, answers })) };
    const { pulls, unlaid } = await work.run('reading', ({ task, signal }) =>
      ask('post', '/api/jobs/{id}/day-layout', { params: { path: { id: jobId }, query: { task } }, body, signal }),
    );
    const shapeOf = new Map(files.map((f) => [f.id, f.shape]));
    const answered = shapes.map((shape, k): ShapeOfFiles => {
      if (shape.answers && shape.proposed !== 'files') return shape;
      const answers = proposedAnswers(pulls.filter((p) => shapeOf.get(p.fileId) === k));
      return { ...shape, answers, proposed: answers ? 'files' : null };
    });
    setStaged({ ...rest, shapes: answered, changedAt, pulls, unlaid });
    onLaid(dayOf(job, pulls), pulls, before);
  };

  const guarded = async (does: () => Promise<void>) => {
    setProblem(null);
    try {
      await does();
    } catch (error) {
      setProblem(
        error instanceof Refusal && error.status === 499
          ? 'Stopped; nothing was kept.'
          : error instanceof Error
            ? error.message
            : String(error),
      );
    }
  };

  /** @param waiting the files, or what fetches them */
  const stage = (waiting: Dropped | Promise<Dropped>) =>
    guarded(async () => {
      setStaged(null);
      const { files, leftOut } = await waiting;
      if (files.length === 0)
        return setProblem(
          leftOut.length > 0
            ? `None of these is a file of pulls: ${leftOut.slice(0, 5).join(', ')}${leftOut.length > 5 ? ' …' : ''}.`
            : 'There were no files in it.',
        );
      if (files.length > MOST_FILES)
        return setProblem(`${files.length} files at once; at most ${MOST_FILES} are taken. Drop one day.`);
      setWhat(files.length === 1 ? files[0]!.name : `${files.length} files`);
      const form = new FormData();
      for (const file of files) form.append('files', file);
      const answer = await work.run('sending', ({ task, signal, onSent }) =>
        send<Schemas['StagedFile'][]>(`/api/jobs/${jobId}/staged-files?task=${task}`, form, { signal, onSent }),
      );
      const dates = new Map<string, number[]>();
      for (const { name, lastModified } of files) dates.set(name, [...(dates.get(name) ?? []), lastModified]);
      const changedAt = new Map(
        answer.flatMap((f): [string, string | null][] => {
          const own = dates.get(f.name)?.shift();
          return f.id ? [[f.id, f.changedAt ?? (own === undefined ? null : new Date(own).toISOString())]] : [];
        }),
      );
      const refused = answer.filter((f) => f.id === null);
      await layOut(shapesOf(answer), changedAt, { refused, leftOut }, null);
    });

  const change = (place: number, patch: Partial<ShapeOfFiles>, again: boolean) => {
    if (!staged) return;
    const shapes = staged.shapes.map((s, k) => (k === place ? { ...s, ...patch } : s));
    if (again) void guarded(() => layOut(shapes, staged.changedAt, staged, staged.pulls));
    else setStaged({ ...staged, shapes });
  };

  return { work, what, staged, problem, stage, change };
}

/** Files by their header, the most frequent one first. */
function shapesOf(files: readonly Schemas['StagedFile'][]): ShapeOfFiles[] {
  const of = new Map<string, Schemas['StagedFile'][]>();
  for (const file of files)
    if (file.id !== null && file.signature !== undefined)
      of.set(file.signature, [...(of.get(file.signature) ?? []), file]);
  return [...of]
    .sort((a, b) => b[1].length - a[1].length)
    .map(([signature, own]) => ({
      ...{ signature, files: own },
      columns: own[0]!.columns?.map(({ role, unit }) => ({ role, unit })) ?? [],
      answers: own[0]!.answers ? { ...NO_ANSWERS, ...own[0]!.answers } : null,
      proposed: own[0]!.answers ? 'remembered' : null,
    }));
}
