import { useMutation, useQuery } from '@tanstack/react-query';
import { Download } from 'lucide-react';
import { Link } from 'react-router';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';

type Recording = Schemas['QuarantinedRecording'];

const moment = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

/** Recordings of a bay that could not become pulls: nothing of them is lost, and a person decides what becomes of them. */
export function Quarantine({ bay }: { bay: string }) {
  const held = useQuery({
    queryKey: ['quarantine', bay],
    queryFn: () => ask('get', '/api/bays/{id}/quarantine', { params: { path: { id: bay } } }),
    refetchInterval: 10_000,
  });
  if (!held.data || held.data.length === 0) return null;
  return (
    <section className="notice bad grid gap-2" aria-label="Quarantined recordings">
      <h3>
        {held.data.length === 1 ? 'One recording' : `${held.data.length} recordings`} could not become{' '}
        {held.data.length === 1 ? 'a pull' : 'pulls'}. Every sample is kept here.
      </h3>
      {held.data.map((recording) => (
        <Held key={recording.id} bay={bay} recording={recording} />
      ))}
    </section>
  );
}

function Held({ bay, recording }: { bay: string; recording: Recording }) {
  const params = { path: { id: bay, recording: recording.id } };
  const done = () => queries.invalidateQueries({ queryKey: ['quarantine', bay] });
  const retry = useMutation({
    mutationFn: () => ask('post', '/api/bays/{id}/quarantine/{recording}/retry', { params }),
    onSettled: done,
  });
  const discard = useMutation({
    mutationFn: () => ask('delete', '/api/bays/{id}/quarantine/{recording}', { params }),
    onSettled: done,
  });
  const wrong = retry.error ?? discard.error;
  return (
    <div className="border-rule grid gap-1.5 border-t pt-2">
      <div>
        Begun {moment.format(new Date(recording.startedAt))}, {recording.samples} samples
        {recording.setup ? `, setup ${recording.setup}` : ''}
        {recording.jobId && (
          <>
            {' '}
            of{' '}
            <Link className="underline" to={`/jobs/${recording.jobId}`}>
              {recording.jobTitle}
            </Link>
          </>
        )}
        . <span className="text-ink-2">The database said: {recording.reason}</span>
      </div>
      {wrong && <div className="text-act">{wrong.message}</div>}
      <div className="flex flex-wrap items-center gap-2">
        <button className="btn pri sm" disabled={retry.isPending} onClick={() => retry.mutate()}>
          Make it a pull, set aside
        </button>
        <a className="btn sm" href={`/api/bays/${bay}/quarantine/${recording.id}/samples.csv`}>
          <Download size={13} aria-hidden />
          Samples as CSV
        </a>
        <AskInPlace
          label="Give the recording up"
          question="Give it up with all its samples? That cannot be undone."
          yes="Give it up"
          busy={discard.isPending}
          onYes={() => discard.mutate()}
        />
      </div>
    </div>
  );
}
