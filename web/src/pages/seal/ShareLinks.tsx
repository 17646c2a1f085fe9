import { longDay } from '@prandel/presentation';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ask, type Schemas } from '../../api/client.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { ShownOnce } from '../people/ShownOnce.tsx';

const TERMS: readonly [string, string][] = [
  ['30', '30 days'],
  ['365', 'a year'],
  ['', 'no end'],
];

/** Links that show a sealed report to somebody without an account. */
export function ShareLinks({
  job,
  seal,
  may,
  onChanged,
  older = false,
}: {
  job: string;
  seal: Schemas['SealAnswer'];
  may: boolean;
  onChanged: () => Promise<unknown>;
  older?: boolean;
}) {
  const [made, setMade] = useState<(Schemas['MadeShareLink'] & { label: string }) | null>(null);
  const { register, handleSubmit, reset, formState } = useForm({ defaultValues: { label: '', days: '30' } });
  const make = useMutation({
    mutationFn: ({ label, days }: { label: string; days: string }) =>
      ask('post', '/api/jobs/{id}/seals/{seal}/links', {
        params: { path: { id: job, seal: seal.id } },
        body: { label: label.trim(), days: days === '' ? null : Number(days) },
      }),
    onSuccess: (link, { label }) => {
      setMade({ ...link, label });
      reset();
    },
    onSettled: onChanged,
  });
  const withdraw = useMutation({
    mutationFn: (link: string) =>
      ask('delete', '/api/jobs/{id}/seals/links/{link}', { params: { path: { id: job, link } } }),
    onSettled: onChanged,
  });
  const wrong = make.error ?? withdraw.error;
  return (
    <div className="grid gap-2">
      {wrong && <Notice kind="bad">{wrong.message}</Notice>}
      {may && !older && (
        <form
          className="flex flex-wrap items-start gap-2"
          noValidate
          onSubmit={(e) => void handleSubmit((v) => make.mutate(v))(e)}
        >
          <div className="min-w-[150px] grow">
            <Field label="A link for" error={formState.errors.label?.message}>
              <Input
                maxLength={120}
                placeholder="the customer, a magazine …"
                {...register('label', { validate: (v) => v.trim() !== '' || 'Say whom it is for.' })}
              />
            </Field>
          </div>
          <Field label="Opens for">
            <select className="input" {...register('days')}>
              {TERMS.map(([days, words]) => (
                <option key={days} value={days}>
                  {words}
                </option>
              ))}
            </select>
          </Field>
          <button className="btn mt-[21px]" disabled={make.isPending}>
            Make a link
          </button>
        </form>
      )}
      {made && (
        <ShownOnce
          text={`${location.origin}/s#${made.token}`}
          label={`Link for ${made.label}`}
          words={`The link for ${made.label} opens the sealed report and its package without signing in. It is shown only now.`}
          onDone={() => setMade(null)}
        />
      )}
      {seal.links.length > 0 && (
        <ul className="grid gap-1" aria-label="Links">
          {seal.links.map((link) => (
            <li key={link.id} className="flex flex-wrap items-baseline gap-x-2 text-[12px]">
              <b>{link.label}</b>
              <span className="text-ink-2">
                {link.views === 0 ? 'not opened yet' : `opened ${link.views} ${link.views === 1 ? 'time' : 'times'}`}
                {link.lastViewedAt && `, last on ${longDay(link.lastViewedAt, null)}`}; {standing(link)}
              </span>
              {may && link.withdrawnAt === null && (
                <AskInPlace
                  label={`Withdraw the link for ${link.label}`}
                  question="Withdraw it? It opens nothing any more."
                  yes="Withdraw"
                  busy={withdraw.isPending}
                  onYes={() => withdraw.mutate(link.id)}
                >
                  Withdraw
                </AskInPlace>
              )}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

function standing({ withdrawnAt, expiresAt }: Schemas['ShareLinkAnswer']): string {
  if (withdrawnAt) return `withdrawn ${longDay(withdrawnAt, null)}`;
  if (!expiresAt) return 'no end';
  return `${Date.parse(expiresAt) < Date.now() ? 'over since' : 'until'} ${longDay(expiresAt, null)}`;
}
