import { useMutation, useQuery } from '@tanstack/react-query';
import { useForm } from 'react-hook-form';
import { Link, useLocation, useNavigate } from 'react-router';
import { ask, queries } from '../../api/client.ts';
import { Field, Input, Notice } from '../../parts/Field.tsx';
import { Mark } from '../../parts/marks.tsx';
import { ROLE_WORDS } from './roles.ts';

/** Where a one-time link leads: into a shop, or to a new password. Its secret stands behind "#", which no server's log sees. */
export function JoinPage() {
  const secret = useLocation().hash.slice(1);
  const go = useNavigate();
  const link = useQuery({
    queryKey: ['link', secret],
    queryFn: () => ask('post', '/api/links/look', { body: { secret } }),
    retry: false,
    refetchOnWindowFocus: false,
  });
  const form = useForm<{ name: string; password: string }>({ defaultValues: { name: '', password: '' } });
  const use = useMutation({
    mutationFn: ({ name, password }: { name: string; password: string }) =>
      ask('post', '/api/links/use', { body: { secret, name: link.data?.name ?? name.trim(), password } }),
    onSuccess: async () => {
      queries.clear();
      await go('/', { replace: true });
    },
  });
  const { errors } = form.formState;
  const about = link.data;
  return (
    <main className="grid min-h-screen place-items-center p-6">
      <form
        className="sheet grid w-full max-w-[400px] gap-3.5 p-6"
        noValidate
        onSubmit={(e) => void form.handleSubmit((v) => use.mutate(v))(e)}
      >
        <div className="brand !text-[20px]">
          <Mark />
          Prandel
        </div>
        {link.isPending && <div className="progress" role="progressbar" aria-label="Looking at the link" />}
        {link.error && (
          <>
            <h1>This link does not open anything</h1>
            <Notice kind="bad">{link.error.message}</Notice>
            <Link className="underline" to="/sign-in">
              Sign in instead
            </Link>
          </>
        )}
        {about && (
          <>
            <div>
              <h1>{about.purpose === 'invitation' ? `Join ${about.shop}` : 'Set a new password'}</h1>
              <p className="text-ink-2 mt-1">
                {about.purpose === 'invitation'
                  ? `As ${ROLE_WORDS[about.role].one}: ${ROLE_WORDS[about.role].may}. You sign in with ${about.email}.`
                  : `${about.name}, ${about.email}. You will be signed out everywhere else.`}
              </p>
            </div>
            {about.purpose === 'invitation' && (
              <Field label="Your name" hint="It stands in the log beside what you do." error={errors.name?.message}>
                <Input autoComplete="name" {...form.register('name', { required: 'Enter your name.' })} />
              </Field>
            )}
            <Field
              label="Password"
              hint="At least ten characters; three words are good."
              error={errors.password?.message}
            >
              <Input
                type="password"
                autoComplete="new-password"
                {...form.register('password', {
                  required: 'Choose a password.',
                  minLength: { value: 10, message: 'At least ten characters.' },
                })}
              />
            </Field>
            {use.error && <Notice kind="bad">{use.error.message}</Notice>}
            <button className="btn pri min-h-[38px]" disabled={use.isPending}>
              {about.purpose === 'invitation' ? 'Join the shop' : 'Set the password'}
            </button>
          </>
        )}
      </form>
    </main>
  );
}
