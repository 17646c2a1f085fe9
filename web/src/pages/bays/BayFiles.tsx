import { takenWords, trayWords } from '@prandel/presentation';
import { useMutation, useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { For } from '../../parts/May.tsx';
import { FolderWatch } from './FolderWatch.tsx';

const ASK_EVERY_MS = 2000;
/** A watcher that was not heard for this long is not there. */
const GONE_S = 60;

/** What the watched folder of a bay brought last, and what waits. */
export function useBayFiles(bay: string, enabled = true) {
  return useQuery({
    queryKey: ['bay-files', bay],
    queryFn: () => ask('get', '/api/bays/{id}/files', { params: { path: { id: bay } } }),
    refetchInterval: ASK_EVERY_MS,
    enabled,
  });
}

/** "12 s", "4 min", "3 h". */
export function ageOf(at: string, nowMs = Date.now()): string {
  const s = Math.max(0, (nowMs - Date.parse(at)) / 1000);
  return s < 100 ? `${Math.round(s)} s` : s < 6000 ? `${Math.round(s / 60)} min` : `${Math.round(s / 3600)} h`;
}

/** A bay whose rollers have software of their own: its folder, its last file, and the tray of what became no pull yet. */
export function BayFiles({ bay, job }: { bay: string; job: string | null }) {
  const files = useBayFiles(bay);
  const data = files.data;
  if (!data) return null;
  const heardS = data.heardAt === null ? Infinity : (Date.now() - Date.parse(data.heardAt)) / 1000;
  return (
    <section className="grid gap-2" aria-label="By files">
      <p>
        <b className={heardS < GONE_S ? 'text-ok' : 'text-ink-3'}>by files</b>{' '}
        {data.folder === null ? (
          <span className="text-ink-2">
            No folder is watched. Start ./prandel watch on the rollers’ computer with an access token for this bay
            <For role="owner">
              {' '}
              (made on{' '}
              <Link className="underline" to="/people">
                People
              </Link>
              )
            </For>
            , or let this page watch one.
          </span>
        ) : (
          <span className="text-ink-2">
            {data.folder}
            {heardS >= GONE_S && data.heardAt ? `, not heard for ${ageOf(data.heardAt)}` : ''}
            {data.last
              ? ` · last file ${data.last.name} ${ageOf(data.last.at)} ago, ${takenWords(data.last.taken)}`
              : ' · no file yet'}
          </span>
        )}
      </p>
      <For role="technician">
        <FolderWatch bay={bay} />
      </For>
      {data.tray.length > 0 && (
        <section className="notice grid gap-2" aria-label="Tray">
          <h3>
            {data.tray.length === 1 ? 'One file is' : `${data.tray.length} files are`} in the tray. Nothing of{' '}
            {data.tray.length === 1 ? 'it' : 'them'} is lost.
          </h3>
          {data.tray.map((file) => (
            <TrayRow key={file.id} bay={bay} job={job} file={file} />
          ))}
        </section>
      )}
    </section>
  );
}

function TrayRow({ bay, job, file }: { bay: string; job: string | null; file: Schemas['TrayFile'] }) {
  const params = { path: { id: bay, file: file.id } };
  const done = () => queries.invalidateQueries({ queryKey: ['bay-files', bay] });
  const retry = useMutation({
    mutationFn: () => ask('post', '/api/bays/{id}/tray/{file}/retry', { params }),
    onSettled: done,
  });
  const discard = useMutation({
    mutationFn: () => ask('delete', '/api/bays/{id}/tray/{file}', { params }),
    onSettled: done,
  });
  const wrong = retry.error ?? discard.error;
  return (
    <div className="border-rule grid gap-1.5 border-t pt-2">
      <div>
        <b>{file.name}</b> <span className="text-ink-3">{ageOf(file.addedAt)} ago</span>{' '}
        {trayWords(file.code, file.message)}
      </div>
      {wrong && <div className="text-act">{wrong.message}</div>}
      <For role="technician">
        <div className="flex flex-wrap items-center gap-2">
          {job === null ? (
            <span className="text-ink-2">Put its job on the bay first.</span>
          ) : (
            <>
              <Link className="btn sm" to={`/jobs/${job}/tray/${bay}/${file.id}`}>
                Look at it
              </Link>
              {['no-job', 'no-round', 'pulling'].includes(file.code) && (
                <button className="btn pri sm" disabled={retry.isPending} onClick={() => retry.mutate()}>
                  Bring it in
                </button>
              )}
            </>
          )}
          <a className="btn sm" href={`/api/bays/${bay}/tray/${file.id}`}>
            Download
          </a>
          <AskInPlace
            label="Give it up"
            question="Give this file up? It stays in the watched folder."
            yes="Give it up"
            busy={discard.isPending}
            onYes={() => discard.mutate()}
          />
        </div>
      </For>
    </div>
  );
}
