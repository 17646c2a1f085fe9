import { longDay } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { useForm } from 'react-hook-form';
import { Link } from 'react-router';
import { ask, queries, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { useRole } from '../../parts/May.tsx';
import { SealMark } from '../../parts/SealMark.tsx';
import { ShareLinks } from './ShareLinks.tsx';

/** Seals a job, shows its seal and the links to it, and opens it again. */
export function SealCard({ stored }: { stored: StoredJob }) {
  const { rowId: job, sealedAt } = stored;
  const may = useRole('technician');
  const path = { path: { id: job } };
  const list = useQuery({
    queryKey: ['seals', job],
    queryFn: () => ask('get', '/api/jobs/{id}/seals', { params: path }),
  });
  const look = () => queries.invalidateQueries({ queryKey: ['seals', job] });
  const seal = useJobChange<void>(job, () => ask('post', '/api/jobs/{id}/seals', { params: path }).finally(look));
  const reopen = useJobChange<string>(job, (reason) =>
    ask('post', '/api/jobs/{id}/seals/reopen', { params: path, body: { reason } }).finally(look),
  );
  const [newest, ...older] = list.data ?? [];
  const wrong = list.error ?? seal.error ?? reopen.error;
  return (
    <section className="sheet card grid gap-2" aria-label="Seal" id="seal">
      {sealedAt && newest && (
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <SealMark size={34} />
          <h2>Sealed</h2>
          <span>
            {longDay(newest.sealedAt, null)} by {newest.by}
          </span>
          <span className="text-ink-2">
            Key <span className="num text-[13px]">{newest.fingerprint.slice(0, 19)}</span> …
          </span>
          <Link className="underline" to="/verify">
            Check a package or report
          </Link>
        </div>
      )}
      {wrong && <Notice kind="bad">{wrong.message}</Notice>}
      {seal.isPending && <div className="progress" role="progressbar" aria-label="Sealing" />}
      {!sealedAt && (
        <div className="flex flex-wrap items-center gap-3">
          <p className="text-ink-2 min-w-[300px] flex-1">
            <b className="text-ink">Not sealed.</b> A sealed job can be checked by somebody who does not trust the shop:
            pulls, log and printed figures are signed, and nothing can be changed until it is reopened with a reason.
          </p>
          {may && (
            <AskInPlace
              label="Seal the job"
              question="From then on nothing of it can be changed."
              yes="Seal it"
              busy={seal.isPending}
              onYes={() => seal.mutate()}
            />
          )}
        </div>
      )}
      {sealedAt && newest && (
        <>
          <ShareLinks job={job} seal={newest} may={may} onChanged={look} />
          {may && <Reopen busy={reopen.isPending} onReason={(reason) => reopen.mutate(reason)} />}
        </>
      )}
      {(sealedAt ? older : (list.data ?? [])).map((one) => (
        <div key={one.id} className="border-rule grid gap-1 border-t pt-2 text-[12px]">
          <p>
            Sealing {one.n}, {longDay(one.sealedAt, null)} by {one.by}
            {one.reopenedAt && (
              <span className="text-ink-2">
                ; reopened {longDay(one.reopenedAt, null)} by {one.reopenedBy}: {one.reopenReason}
              </span>
            )}
          </p>
          {one.links.length > 0 && <ShareLinks job={job} seal={one} may={may} onChanged={look} older />}
        </div>
      ))}
    </section>
  );
}

function Reopen({ busy, onReason }: { busy: boolean; onReason: (reason: string) => void }) {
  const { register, handleSubmit, formState } = useForm({ defaultValues: { reason: '' } });
  const { errors } = formState;
  return (
    <details className="border-rule border-t pt-2">
      <summary className="text-[12.5px]">Reopen the job</summary>
      <form
        className="mt-2 flex flex-wrap items-start gap-2"
        noValidate
        onSubmit={(e) => void handleSubmit(({ reason }) => onReason(reason.trim()))(e)}
      >
        <div className="min-w-[220px] grow">
          <Field label="Why" error={errors.reason?.message}>
            <Input
              maxLength={500}
              {...register('reason', {
                validate: (v) => v.trim().length >= 3 || 'Say in a few words why; it stands in the log.',
              })}
            />
          </Field>
        </div>
        <button className="btn mt-[21px]" disabled={busy}>
          Reopen
        </button>
      </form>
      <p className="text-ink-3 mt-1 text-[12px]">
        Its seal and its links stay what they are; the next seal names the one it stands in place of.
      </p>
    </details>
  );
}
