import { useMutation } from '@tanstack/react-query';
import { CalendarDays, Upload } from 'lucide-react';
import { useRef, useState } from 'react';
import { channelName } from '@prandel/presentation';
import { Link, useNavigate, useParams } from 'react-router';
import { ask, Refusal, refusedByServer, send, type Schemas } from '../../api/client.ts';
import { useJob, useJobChange } from '../../api/hooks.ts';
import { Notice } from '../../parts/Field.tsx';
import { Badge } from '../../parts/marks.tsx';
import { useWork } from '../../parts/useWork.ts';
import { WorkBar } from '../../parts/WorkBar.tsx';
import type { Columns } from './ColumnTable.tsx';
import { LoggerCard } from './LoggerCard.tsx';
import { Mapper } from './Mapper.tsx';
import { timesOf } from './recordedTimes.ts';
import { RoundFields } from './RoundFields.tsx';
import { conditionsOf, EMPTY_ROUND, numberStateOf, type RoundForm } from './roundForm.ts';

type Staged = Schemas['StagedFile'];

/** Pull files in: choose, look at what the reader understood, correct it, import whole or not at all. */
export function ImportPage() {
  const { id = '' } = useParams();
  const stored = useJob(id);
  const go = useNavigate();
  const picker = useRef<HTMLInputElement>(null);
  const [kind, setKind] = useState<'pulls' | 'logger'>('pulls');
  const [added, setAdded] = useState<Schemas['LoggerAdded'] | null>(null);
  const [setupId, setSetupId] = useState<string | null>(null);
  const [staged, setStaged] = useState<Staged[]>([]);
  const [columns, setColumns] = useState<Columns>([]);
  const [round, setRound] = useState<RoundForm>(EMPTY_ROUND);
  const [timed, setTimed] = useState<boolean | null>(null);
  const work = useWork();
  const [sending, setSending] = useState('');
  const stage = useMutation({
    mutationFn: (files: readonly File[]) => {
      const form = new FormData();
      for (const f of [...files].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true })))
        form.append('files', f);
      setSending(files.length === 1 ? files[0]!.name : `${files.length} files`);
      return work.run('sending', ({ task, signal, onSent }) =>
        send<Staged[]>(`/api/jobs/${id}/staged-files?task=${task}`, form, { signal, onSent }),
      );
    },
    onSuccess: (files) => {
      setStaged(files);
      setTimed(null);
      setColumns(files.find((f) => f.id)?.columns?.map(({ role, unit }) => ({ role, unit })) ?? []);
    },
  });
  const bring = useJobChange<Schemas['ImportRequest']>(id, (request) =>
    work.run('reading', ({ task, signal }) =>
      ask('post', '/api/jobs/{id}/imports', { params: { path: { id }, query: { task } }, body: request, signal }),
    ),
  );
  if (!stored.data)
    return stored.error ? (
      <div className="p-6">
        <Notice kind="bad">{stored.error.message}</Notice>
      </div>
    ) : (
      <div className="progress" role="progressbar" aria-label="Loading the job" />
    );
  const { job } = stored.data;
  const logger = kind === 'logger';
  const another = (k: typeof kind) => {
    setKind(k);
    setStaged([]);
    setAdded(null);
  };
  const target = setupId ?? job.setups.find((s) => !job.pulls.some((p) => p.setupId === s.id))?.id ?? job.setups[0]!.id;
  const readable = staged.filter((f) => f.id !== null);
  const alike = readable.filter((f) => f.signature === readable[0]?.signature);
  const others = readable.filter((f) => f.signature !== readable[0]?.signature);
  const refused = staged.filter((f) => f.id === null);
  const numberState = numberStateOf(round);
  const times = timesOf(alike);
  // Whoever does not say otherwise takes times about which there is no doubt.
  const takeTimes = times !== null && times.problem === '' && (timed ?? times.doubt === '');
  const fileIds = alike.map((f) => f.id!);
  const submit = () =>
    numberState &&
    bring.mutate(
      {
        ...{ fileIds, setupId: target, settle: Number(round.settle), columns, numberState },
        conditions: conditionsOf(round),
        ...(takeTimes ? { clock: { timeZone: job.timeZone ?? browserZone() } } : {}),
      },
      {
        onSuccess: () => {
          const next = job.setups.find((s) => s.id !== target && !job.pulls.some((p) => p.setupId === s.id));
          setStaged([]);
          setSetupId(null);
          if (!next) void go(`/jobs/${id}`);
        },
      },
    );
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <div className="grow">
          <h1>{logger ? 'Import a logger’s record' : 'Import pulls'}</h1>
          <p className="text-ink-2">{job.title}</p>
        </div>
        <Link className="btn pri" to={`/jobs/${id}/day`}>
          <CalendarDays size={15} aria-hidden />A whole day at once
        </Link>
      </div>
      <section className="sheet card flex flex-wrap items-center gap-3">
        <div className="seg" role="group" aria-label="What the files are">
          {(['pulls', 'logger'] as const).map((k) => (
            <button key={k} aria-pressed={kind === k} onClick={() => another(k)}>
              {k === 'pulls' ? 'Pulls' : 'A logger’s record'}
            </button>
          ))}
        </div>
        {logger ? (
          <span className="text-ink-2">
            One file of a pull, of a round or of the whole day, in its own clock: it is laid beside the pulls by their
            speed.
          </span>
        ) : (
          <>
            <span className="font-[620]">For setup</span>
            <div className="flex flex-wrap gap-1.5" role="group" aria-label="Setup">
              {job.setups.map((s) => (
                <button key={s.id} className="chip" aria-pressed={s.id === target} onClick={() => setSetupId(s.id)}>
                  <Badge id={s.id} setups={job.setups} />
                  {s.label}
                  <span className="text-ink-3">{job.pulls.filter((p) => p.setupId === s.id).length || ''}</span>
                </button>
              ))}
            </div>
          </>
        )}
        <div className="grow" />
        <input
          ref={picker}
          type="file"
          multiple={!logger}
          accept=".csv,.txt,.tsv,.dat,.log,text/*"
          className="sr-only"
          tabIndex={-1}
          aria-label={logger ? 'File of a logger' : 'Pull files'}
          onChange={(e) => {
            const chosen = Array.from(e.target.files ?? []);
            e.target.value = '';
            if (chosen.length > 0) stage.mutate(chosen);
          }}
        />
        <button className="btn" onClick={() => picker.current?.click()} disabled={stage.isPending}>
          <Upload size={15} aria-hidden />
          {stage.isPending ? 'Reading …' : logger ? 'Choose a file' : 'Choose CSV files'}
        </button>
      </section>
      {work.state && <WorkBar state={work.state} what={sending} onCancel={work.cancel} />}
      {stage.error && <Notice kind={cancelled(stage.error) ? 'plain' : 'bad'}>{stage.error.message}</Notice>}
      {bring.isSuccess && staged.length === 0 && (
        <Notice kind="plain">Imported. Now the files of setup {target}.</Notice>
      )}
      {added && (
        <Notice kind="plain">
          Added {added.channels.map(channelName).join(', ')} to {added.pulls.length} pulls.{' '}
          <Link className="underline" to={`/jobs/${id}/compare`}>
            See them on Compare
          </Link>
          .
        </Notice>
      )}
      {staged.length === 0 && !stage.isPending && logger && !added && (
        <div className="sheet p-8 text-center text-[15px]">
          {job.pulls.length === 0
            ? 'Import the pulls first: a record is laid beside them.'
            : 'Choose the record that the logger exported.'}
        </div>
      )}
      {staged.length === 0 && !stage.isPending && !logger && (
        <div className="sheet p-8 text-center text-[15px]">
          Choose the files of setup {target}: one pull per file or many in one, any maker’s CSV.{' '}
          <span className="text-ink-2 block text-[13px]">
            Nothing is stored before you have seen what the columns mean.
          </span>
        </div>
      )}
      {refused.map((f) => (
        <Notice key={f.name} kind="bad">
          <b>{f.name}</b> cannot be read; nothing of it was stored.
          <ul className="mt-1">
            {f.problems.map((p, i) => (
              <li key={i}>
                {p.line ? `Line ${p.line}: ` : ''}
                {p.message}
              </li>
            ))}
          </ul>
        </Notice>
      ))}
      {others.length > 0 && (
        <Notice>
          {others.length} of the files have other columns ({others.map((f) => f.name).join(', ')}). Import those
          afterwards, in a second step.
        </Notice>
      )}
      {logger && alike[0] && (
        <LoggerCard
          key={alike[0].id}
          {...{ job, columns }}
          jobId={id}
          file={alike[0]}
          onColumns={setColumns}
          onAdded={(answer) => {
            setStaged([]);
            setAdded(answer);
          }}
        />
      )}
      {!logger && alike.length > 0 && (
        <>
          {alike.flatMap((f) =>
            f.problems.map((p, i) => (
              <Notice key={f.name + i} kind="bad">
                <b>{f.name}</b>
                {p.line ? `, line ${p.line}` : ''}: {p.message}
              </Notice>
            )),
          )}
          <Mapper jobId={id} files={alike} columns={columns} onColumns={setColumns} />
          {times && (
            <section className="sheet card flex flex-wrap items-center gap-x-4 gap-y-1" aria-label="When">
              <p>
                {times.said} <span className="text-wait">{times.problem || times.doubt}</span>
              </p>
              {times.problem === '' && (
                <label className="flex min-h-[28px] items-center gap-2 font-[620]">
                  <input type="checkbox" checked={takeTimes} onChange={(e) => setTimed(e.target.checked)} />
                  The pulls were made then
                </label>
              )}
            </section>
          )}
          <RoundFields
            value={round}
            onChange={setRound}
            pulls={alike.reduce((n, f) => n + (f.pulls?.length ?? 0), 0)}
            columns={columns}
          />
          {bring.error && (
            <Notice kind={cancelled(bring.error) ? 'plain' : 'bad'}>
              {refusedByServer(bring.error) && <b>Nothing was imported. </b>}
              {bring.error instanceof Refusal && bring.error.problems.length > 0 ? (
                <ul>
                  {bring.error.problems.slice(0, 8).map((p, i) => (
                    <li key={i}>
                      {p.line ? `Line ${p.line}: ` : ''}
                      {p.message}
                    </li>
                  ))}
                </ul>
              ) : (
                bring.error.message
              )}
            </Notice>
          )}
          <div className="flex items-center justify-end gap-3">
            {!numberState && (
              <span className="text-wait">Say first whether the numbers are already corrected or scaled.</span>
            )}
            <button className="btn pri min-h-[38px] px-6" disabled={!numberState || bring.isPending} onClick={submit}>
              {bring.isPending ? 'Importing …' : `Import for setup ${target}`}
            </button>
          </div>
        </>
      )}
    </div>
  );
}

/** Jobs that came without a zone take the one of this computer. */
const browserZone = () => Intl.DateTimeFormat().resolvedOptions().timeZone;

function cancelled(error: Error): boolean {
  return error instanceof Refusal && error.status === 499;
}
