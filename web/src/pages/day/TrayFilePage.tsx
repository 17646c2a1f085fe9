import { trayWords } from '@prandel/presentation';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { ask, type StoredJob } from '../../api/client.ts';
import { useJob } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import { WorkBar } from '../../parts/WorkBar.tsx';
import { numberStateOf, type Day } from './dayState.ts';
import { obstacleWords } from './dayWords.ts';
import { NumbersCard } from './NumbersCard.tsx';
import { PullFacts } from './PullFacts.tsx';
import { Refused } from './Refused.tsx';
import { useStagedDay } from './useStagedDay.ts';

/** A file from the watched folder whose kind nobody has looked at: once said what its numbers are, it comes in, and its kind by itself. */
export function TrayFilePage() {
  const { id = '', bay = '', file = '' } = useParams();
  const stored = useJob(id);
  if (!stored.data)
    return stored.error ? (
      <div className="p-6">
        <Notice kind="bad">{stored.error.message}</Notice>
      </div>
    ) : (
      <div className="progress" role="progressbar" aria-label="Loading the job" />
    );
  return <TrayFileOfJob key={`${id} ${file}`} {...{ id, bay, file }} stored={stored.data} />;
}

function TrayFileOfJob({
  id,
  bay,
  file,
  stored: { job },
}: {
  id: string;
  bay: string;
  file: string;
  stored: StoredJob;
}) {
  const go = useNavigate();
  const timeZone = job.timeZone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
  const [rows, setRows] = useState<Day>([]);
  const { work, what, staged, problem, stage, change } = useStagedDay(id, job, timeZone, setRows);
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    void stage(trayFile(bay, file).then((own) => ({ files: [own], leftOut: [] })));
  });
  const { pulls, shapes } = staged ?? { pulls: [], shapes: [] };
  const learn = useMutation({
    mutationFn: async () => {
      for (const { files: own, columns, answers } of shapes)
        await ask('post', '/api/jobs/{id}/shapes', {
          params: { path: { id } },
          body: { fileId: own[0]!.id!, columns, answers, byItself: true },
        });
      return ask('post', '/api/bays/{id}/tray/{file}/retry', { params: { path: { id: bay, file } } });
    },
    onSuccess: (taken) => {
      if (taken.outcome !== 'tray') void go(`/bays/${bay}`);
    },
  });
  const open = shapes.flatMap((shape, k) =>
    rows.some((row) => numberStateOf(row, pulls, shape.answers) === null) ? [k] : [],
  );
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <div>
          <h1>A file from the watched folder</h1>
          <p className="text-ink-2">{job.title}</p>
        </div>
        <span className="grow" />
        <Link className="btn" to="/bays">
          Back to the tray
        </Link>
        {rows.length > 0 && (
          <button
            className="btn pri min-h-[38px] px-5"
            disabled={open.length > 0 || learn.isPending}
            onClick={() => learn.mutate()}
          >
            Bring it in, and its kind by itself from now on
          </button>
        )}
      </div>
      {work.state && <WorkBar state={work.state} what={what} onCancel={work.cancel} />}
      {problem && <Notice kind="bad">{problem}</Notice>}
      {learn.error && <Notice kind="bad">{learn.error.message}</Notice>}
      {learn.data?.outcome === 'tray' && learn.data.code && (
        <Notice>Its kind is known now, but it still waits: {trayWords(learn.data.code, learn.data.message)}</Notice>
      )}
      {staged && <Refused staged={staged} />}
      {open.map((shape) => (
        <Notice key={shape}>{obstacleWords({ code: 'numbers', shape }, String, shapes.length)}</Notice>
      ))}
      <div className="grid items-start gap-3 lg:grid-cols-2">
        {pulls.length > 0 && (
          <section className="sheet card grid content-start gap-2" aria-label="What is in the file">
            {pulls.map((pull, k) => (
              <PullFacts key={k} pull={pull} name={pulls.length > 1 ? `Pull ${k + 1}` : 'The pull'} />
            ))}
            <p className="text-ink-3 text-[12px]">
              It becomes the next pull of the round that is open in the bay, with its setup.
            </p>
          </section>
        )}
        {shapes.map((shape, k) => (
          <NumbersCard
            key={shape.signature}
            {...{ shape, pulls, rows }}
            number={k + 1}
            several={shapes.length > 1}
            open={pulls.length === 0}
            onAnswers={(answers) =>
              change(k, { answers, proposed: null }, answers.rpmPerKmH !== (shape.answers?.rpmPerKmH ?? null))
            }
            onColumns={(columns) => change(k, { columns }, true)}
          />
        ))}
      </div>
    </div>
  );
}

/** @throws Error when somebody took the file out of the tray */
async function trayFile(bay: string, file: string): Promise<File> {
  const response = await fetch(`/api/bays/${bay}/tray/${file}`);
  if (!response.ok) throw new Error('The file is no longer in the tray: somebody brought it in, or gave it up.');
  const name = /filename\*=UTF-8''([^;]+)/.exec(response.headers.get('content-disposition') ?? '')?.[1] ?? 'file';
  return new File([await response.blob()], decodeURIComponent(name));
}
