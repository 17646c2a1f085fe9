import { useMutation, useQuery } from '@tanstack/react-query';
import { useForm } from 'react-hook-form';
import { ask, queries, type Schemas } from '../api/client.ts';
import { useSession } from '../api/hooks.ts';
import { Field, Input, Notice } from '../parts/Field.tsx';
import { ShopKeyCard } from './seal/ShopKeyCard.tsx';

const moment = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' });

/** Where I am signed in, and my password. */
export function AccountPage() {
  const session = useSession();
  return (
    <div className="mx-auto grid max-w-[1080px] gap-3 p-4">
      <div>
        <h1>Your account and {session.data?.shop ?? 'the shop'}</h1>
        <p className="text-ink-2">
          {session.data?.name}, {session.data?.email}
        </p>
      </div>
      <ShopKeyCard />
      <Sessions />
      <Password />
    </div>
  );
}

function Sessions() {
  const sessions = useQuery({
    queryKey: ['sessions'],
    queryFn: () => ask('get', '/api/sessions'),
  });
  const refresh = () => queries.invalidateQueries({ queryKey: ['sessions'] });
  const end = useMutation({
    mutationFn: (id: string) => ask('delete', '/api/sessions/{id}', { params: { path: { id } } }),
    onSettled: refresh,
  });
  const endOthers = useMutation({
    mutationFn: () => ask('delete', '/api/sessions'),
    onSettled: refresh,
  });
  const others = sessions.data?.filter((s) => !s.own) ?? [];
  const wrong = sessions.error ?? end.error ?? endOthers.error;
  return (
    <section className="sheet card" aria-label="Sessions">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="grow">Where you are signed in</h2>
        <button
          className="btn"
          disabled={others.length === 0 || endOthers.isPending}
          title={others.length === 0 ? 'You are signed in here only.' : undefined}
          onClick={() => endOthers.mutate()}
        >
          Sign out everywhere else
        </button>
      </div>
      {wrong && <Notice kind="bad">{wrong.message}</Notice>}
      {endOthers.data && (
        <Notice kind="plain">
          {endOthers.data.ended === 1 ? 'One session was' : `${endOthers.data.ended} sessions were`} ended.
        </Notice>
      )}
      <div className="mt-2 overflow-x-auto" tabIndex={0} role="region" aria-label="Sessions">
        <table className="table">
          <thead>
            <tr>
              <th>Device</th>
              <th>Address</th>
              <th>Since</th>
              <th>Last used</th>
              <th>
                <span className="sr-only">End it</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {sessions.data?.map((s) => (
              <tr key={s.id}>
                <td>
                  <b>{deviceOf(s.userAgent)}</b>
                  {s.own && <span className="text-ok font-[620]"> this one</span>}
                </td>
                <td className="text-ink-2">{s.address}</td>
                <td className="text-ink-2 whitespace-nowrap">{moment.format(new Date(s.createdAt))}</td>
                <td className="text-ink-2 whitespace-nowrap">{moment.format(new Date(s.lastSeenAt))}</td>
                <td className="r">
                  {!s.own && (
                    <button className="btn sm" disabled={end.isPending} onClick={() => end.mutate(s.id)}>
                      Sign out there
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="text-ink-3 mt-2">
        A session ends after seven days without use and after thirty days in any case. A screen in the bay goes dark
        with its session.
      </p>
    </section>
  );
}

/** The machine that a browser says it runs on; its name is nobody's business here. */
function deviceOf(userAgent: string): string {
  const kinds: readonly [RegExp, string][] = [
    [/ipad|tablet/i, 'A tablet'],
    [/mobile|iphone|android/i, 'A phone or tablet'],
    [/windows|mac os|x11|linux/i, 'A computer'],
  ];
  return kinds.find(([pattern]) => pattern.test(userAgent))?.[1] ?? 'A program';
}

function Password() {
  const form = useForm<Schemas['PasswordChange']>({ defaultValues: { current: '', next: '' } });
  const change = useMutation({
    mutationFn: (body: Schemas['PasswordChange']) => ask('post', '/api/password', { body }),
    onSuccess: async () => {
      form.reset();
      await queries.invalidateQueries({ queryKey: ['sessions'] });
    },
  });
  const { errors } = form.formState;
  return (
    <section className="sheet card" aria-label="Password">
      <h2>Change your password</h2>
      <form
        className="mt-2 grid max-w-[620px] gap-3 sm:grid-cols-2"
        noValidate
        onSubmit={(e) => void form.handleSubmit((v) => change.mutate(v))(e)}
      >
        <Field label="Present password" error={errors.current?.message}>
          <Input
            type="password"
            autoComplete="current-password"
            {...form.register('current', { required: 'Enter your present password.' })}
          />
        </Field>
        <Field label="New password" hint="At least ten characters; three words are good." error={errors.next?.message}>
          <Input
            type="password"
            autoComplete="new-password"
            {...form.register('next', {
              required: 'Enter the new password.',
              minLength: { value: 10, message: 'At least ten characters.' },
            })}
          />
        </Field>
        <div className="sm:col-span-2">
          {change.error && <Notice kind="bad">{change.error.message}</Notice>}
          {change.isSuccess && (
            <Notice kind="plain">The password is changed; you were signed out everywhere else.</Notice>
          )}
        </div>
        <div className="flex justify-end sm:col-span-2">
          <button className="btn pri" disabled={change.isPending}>
            Change the password
          </button>
        </div>
      </form>
    </section>
  );
}
