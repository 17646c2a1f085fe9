import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { useBays } from '../../api/hooks.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { ShownOnce } from './ShownOnce.tsx';

const moment = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
const refresh = () => queries.invalidateQueries({ queryKey: ['access-tokens'] });
const SCOPES: Readonly<Record<Schemas['TokenScope'], string>> = {
  'read-jobs': 'Reads jobs, packages and reports',
  'upload-to-bay': 'Brings pull files to the job in a bay',
};

/** Tokens for programs: each for one thing, shown once, withdrawable. */
export function AccessTokens() {
  const bays = useBays();
  const tokens = useQuery({
    queryKey: ['access-tokens'],
    queryFn: () => ask('get', '/api/access-tokens'),
  });
  const [made, setMade] = useState<Schemas['MadeAccessToken'] | null>(null);
  const form = useForm<Schemas['NewAccessToken']>({ defaultValues: { name: '', scope: 'read-jobs', bayId: '' } });
  const make = useMutation({
    mutationFn: ({ name, scope, bayId }: Schemas['NewAccessToken']) =>
      ask('post', '/api/access-tokens', {
        body: {
          name: name.trim(),
          scope,
          ...(scope === 'upload-to-bay' ? { bayId } : {}),
        },
      }),
    onSuccess: async (token) => {
      setMade(token);
      form.reset();
      await refresh();
    },
  });
  const withdraw = useMutation({
    mutationFn: (id: string) => ask('delete', '/api/access-tokens/{id}', { params: { path: { id } } }),
    onSettled: refresh,
  });
  const { errors } = form.formState;
  const wrong = tokens.error ?? make.error ?? withdraw.error;
  return (
    <section className="sheet card grid gap-2" aria-label="Access tokens">
      <h2>Access tokens for programs</h2>
      <form
        className="flex flex-wrap items-start gap-3"
        noValidate
        onSubmit={(e) => void form.handleSubmit((v) => make.mutate(v))(e)}
      >
        <div className="w-[240px]">
          <Field label="Used by" error={errors.name?.message}>
            <Input {...form.register('name', { required: 'Name the program or computer that will use it.' })} />
          </Field>
        </div>
        <Field label="What it may do">
          <select className="input" {...form.register('scope')}>
            {Object.entries(SCOPES).map(([scope, words]) => (
              <option key={scope} value={scope}>
                {words}
              </option>
            ))}
          </select>
        </Field>
        {form.watch('scope') === 'upload-to-bay' && (
          <Field label="Bay" error={errors.bayId?.message}>
            <select className="input" {...form.register('bayId', { required: 'Choose the bay.' })}>
              <option value="">Choose</option>
              {bays.data?.map((b) => (
                <option key={b.id} value={b.id}>
                  {b.label}
                </option>
              ))}
            </select>
          </Field>
        )}
        <button className="btn mt-[21px]" disabled={make.isPending}>
          Make a token
        </button>
      </form>
      {wrong && <Notice kind="bad">{wrong.message}</Notice>}
      {made && (
        <ShownOnce
          text={made.token}
          label="Access token"
          words={`The token of ${made.name}. It is sent as “Authorization: Bearer …”, and it is shown only now.`}
          onDone={() => setMade(null)}
        />
      )}
      {tokens.data && tokens.data.length > 0 && (
        <table className="table">
          <thead>
            <tr>
              <th>Used by</th>
              <th>May do</th>
              <th>Made</th>
              <th>Last used</th>
              <th>
                <span className="sr-only">Withdraw</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {tokens.data.map((t) => (
              <tr key={t.id}>
                <td className="font-[620]">{t.name}</td>
                <td>
                  {SCOPES[t.scope]}
                  {t.bay && `: ${t.bay}`}
                </td>
                <td className="text-ink-2 whitespace-nowrap">
                  {moment.format(new Date(t.createdAt))} by {t.madeBy}
                </td>
                <td className="text-ink-2 whitespace-nowrap">
                  {t.lastUsedAt ? moment.format(new Date(t.lastUsedAt)) : 'never'}
                </td>
                <td className="r">
                  <AskInPlace
                    label={`Withdraw the token of ${t.name}`}
                    question="Withdraw it? Its program is shut out at once."
                    yes="Withdraw"
                    busy={withdraw.isPending}
                    onYes={() => withdraw.mutate(t.id)}
                  >
                    Withdraw
                  </AskInPlace>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
