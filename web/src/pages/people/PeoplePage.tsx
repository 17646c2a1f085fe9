import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { ask, queries, type Schemas } from '../../api/client.ts';
import { useSession } from '../../api/hooks.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { Choice } from '../../parts/Choice.tsx';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { AccessTokens } from './AccessTokens.tsx';
import { OneTimeLink } from './OneTimeLink.tsx';
import { ROLE_CHOICES, ROLE_WORDS } from './roles.ts';

type Member = Schemas['TeamMember'];
const moment = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
const refresh = () => queries.invalidateQueries({ queryKey: ['people'] });

/** Who works in the shop and what may come in without a person; for its owner. */
export function PeoplePage() {
  const team = useQuery({ queryKey: ['people'], queryFn: () => ask('get', '/api/people') });
  return (
    <div className="mx-auto grid max-w-[1080px] gap-3 p-4">
      <div>
        <h1>People</h1>
        <p className="text-ink-2">
          {(['owner', 'technician', 'viewer'] as const)
            .map((r) => `${ROLE_WORDS[r].name}: ${ROLE_WORDS[r].may}`)
            .join('. ')}
          .
        </p>
      </div>
      {team.error && <Notice kind="bad">{team.error.message}</Notice>}
      {team.isPending && <div className="progress" role="progressbar" aria-label="Loading the people" />}
      {team.data && <Members people={team.data.people} />}
      {team.data && <Invite invitations={team.data.invitations} />}
      <AccessTokens />
    </div>
  );
}

function Members({ people }: { people: readonly Member[] }) {
  const [link, setLink] = useState<{ of: string; made: Schemas['MadeLink'] } | null>(null);
  const self = useSession().data?.email;
  const role = useMutation({
    mutationFn: ({ person, to }: { person: Member; to: Schemas['Role'] }) =>
      ask('patch', '/api/people/{id}', {
        params: { path: { id: person.id } },
        body: { role: to, version: person.version },
      }),
    onSettled: refresh,
  });
  const remove = useMutation({
    mutationFn: (id: string) => ask('delete', '/api/people/{id}', { params: { path: { id } } }),
    onSettled: refresh,
  });
  const reset = useMutation({
    mutationFn: ({ id }: Member) => ask('post', '/api/people/{id}/reset-link', { params: { path: { id } } }),
    onSuccess: (made, { name }) => setLink({ of: name, made }),
  });
  const wrong = role.error ?? remove.error ?? reset.error;
  return (
    <section className="sheet card grid gap-2" aria-label="People of the shop">
      {wrong && <Notice kind="bad">{wrong.message}</Notice>}
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="People of the shop">
        <table className="table">
          <thead>
            <tr>
              <th>Name</th>
              <th>E-mail</th>
              <th>Role</th>
              <th>Last here</th>
              <th>
                <span className="sr-only">Change</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {people.map((p) => (
              <tr key={p.id} data-person={p.email}>
                <td className="font-[620]">
                  {p.name}
                  {p.email === self && <span className="text-ok font-[620]"> you</span>}
                </td>
                <td className="text-ink-2">{p.email}</td>
                <td>
                  <Choice
                    label={`Role of ${p.name}`}
                    value={p.role}
                    options={ROLE_CHOICES}
                    onChange={(to) => to !== p.role && role.mutate({ person: p, to })}
                  />
                </td>
                <td className="text-ink-2 whitespace-nowrap">
                  {p.lastSeenAt ? moment.format(new Date(p.lastSeenAt)) : 'not signed in'}
                </td>
                <td className="r">
                  <span className="inline-flex flex-wrap justify-end gap-2">
                    <button className="btn sm" disabled={reset.isPending} onClick={() => reset.mutate(p)}>
                      Password link
                    </button>
                    <AskInPlace
                      label={`Remove ${p.name}`}
                      question={`Remove ${p.name}? Their sessions end at once; the log still names them.`}
                      yes="Remove"
                      busy={remove.isPending}
                      onYes={() => remove.mutate(p.id)}
                    >
                      Remove
                    </AskInPlace>
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="text-ink-3">
        Another role ends somebody’s sessions: they sign in again and find what they may do now.
      </p>
      {link && (
        <OneTimeLink
          made={link.made}
          words={`With this link ${link.of} sets a new password, once.`}
          onDone={() => setLink(null)}
        />
      )}
    </section>
  );
}

function Invite({ invitations }: { invitations: readonly Schemas['Invitation'][] }) {
  const [made, setMade] = useState<{ email: string; link: Schemas['MadeLink'] } | null>(null);
  const form = useForm<Schemas['NewInvitation']>({ defaultValues: { email: '', role: 'technician' } });
  const invite = useMutation({
    mutationFn: (body: Schemas['NewInvitation']) => ask('post', '/api/people/invitations', { body }),
    onSuccess: async (link, { email }) => {
      setMade({ email, link });
      form.reset();
      await refresh();
    },
  });
  const withdraw = useMutation({
    mutationFn: (id: string) => ask('delete', '/api/people/invitations/{id}', { params: { path: { id } } }),
    onSuccess: () => setMade(null),
    onSettled: refresh,
  });
  const { errors } = form.formState;
  const wrong = invite.error ?? withdraw.error;
  return (
    <section className="sheet card grid gap-2" aria-label="Invitations">
      <h2>Invite somebody</h2>
      <form
        className="flex flex-wrap items-start gap-3"
        noValidate
        onSubmit={(e) => void form.handleSubmit((v) => invite.mutate(v))(e)}
      >
        <div className="w-[320px]">
          <Field label="E-mail" hint="They sign in with it. No mail is sent." error={errors.email?.message}>
            <Input type="email" {...form.register('email', { required: 'Enter an e-mail address.' })} />
          </Field>
        </div>
        <Field label="Role">
          <select className="input" {...form.register('role')}>
            {ROLE_CHOICES.map(([role, name]) => (
              <option key={role} value={role}>
                {name}
              </option>
            ))}
          </select>
        </Field>
        <button className="btn pri mt-[21px]" disabled={invite.isPending}>
          Make a link
        </button>
      </form>
      {wrong && <Notice kind="bad">{wrong.message}</Notice>}
      {made && (
        <OneTimeLink
          made={made.link}
          words={`Give this link to ${made.email}; it lets one person in, once.`}
          onDone={() => setMade(null)}
        />
      )}
      {invitations.length > 0 && (
        <ul className="divide-rule divide-y" aria-label="Open invitations">
          {invitations.map((i) => (
            <li key={i.id} className="flex flex-wrap items-center gap-3 py-1.5">
              <span className="grow">
                <b>{i.email}</b>{' '}
                <span className="text-ink-2">
                  as {ROLE_WORDS[i.role].one}, open until {moment.format(new Date(i.expiresAt))}
                </span>
              </span>
              <button className="btn sm" disabled={withdraw.isPending} onClick={() => withdraw.mutate(i.id)}>
                Withdraw
              </button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
