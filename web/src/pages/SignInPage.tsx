import { useMutation, useQuery } from '@tanstack/react-query';
import { useForm } from 'react-hook-form';
import { useLocation, useNavigate } from 'react-router';
import { ask, queries, type Schemas } from '../api/client.ts';
import { Field, Input, Notice } from '../parts/Field.tsx';
import { Mark } from '../parts/marks.tsx';

/** Sign-in; on a first start the shop is set up here. */
export function SignInPage() {
  const status = useQuery({ queryKey: ['status'], queryFn: () => ask('get', '/api/status') });
  const go = useNavigate();
  const { state } = useLocation() as { state: { back?: string } | null };
  const first = status.data?.firstStart ?? false;
  const form = useForm<Schemas['FirstStart']>({
    defaultValues: { shop: '', name: '', email: '', password: '', setupCode: '' },
  });
  const enter = useMutation({
    mutationFn: (v: Schemas['FirstStart']) =>
      first
        ? ask('post', '/api/first-start', { body: { ...v, setupCode: v.setupCode.trim() } })
        : ask('post', '/api/session', { body: { email: v.email, password: v.password } }),
    onSuccess: async () => {
      queries.clear();
      await go(state?.back ?? '/', { replace: true });
    },
  });
  const { errors } = form.formState;
  return (
    <main className="grid min-h-screen place-items-center p-6">
      <form
        className="grid w-full max-w-[860px] grid-cols-1 gap-8 md:grid-cols-[1fr_340px]"
        noValidate
        onSubmit={(e) => void form.handleSubmit((v) => enter.mutate(v))(e)}
      >
        <div className="self-center">
          <div className="brand !text-[26px]">
            <Mark />
            Prandel
          </div>
          <p className="mt-4 max-w-[38ch] text-[17px] leading-snug">
            Before-and-after pulls on a chassis dyno, judged with an interval.
          </p>
          <p className="text-ink-2 mt-2 max-w-[44ch]">
            What is verified, where in the rev range, how sure, and what would settle it.
          </p>
        </div>
        <div className="sheet grid gap-3.5 p-5">
          <h1>{first ? 'Set up your shop' : 'Sign in'}</h1>
          {status.error && <Notice kind="bad">{status.error.message}</Notice>}
          {first && (
            <>
              <Field
                label="Set-up code"
                hint="Printed in the terminal where Prandel was started."
                error={errors.setupCode?.message}
              >
                <Input
                  {...form.register('setupCode', { required: 'Enter the code that was printed at the start.' })}
                  autoComplete="off"
                />
              </Field>
              <Field label="Name of the shop" error={errors.shop?.message}>
                <Input {...form.register('shop', { required: 'Name the shop.' })} autoComplete="organization" />
              </Field>
              <Field label="Your name" error={errors.name?.message}>
                <Input {...form.register('name', { required: 'Enter your name.' })} autoComplete="name" />
              </Field>
            </>
          )}
          <Field label="E-mail" error={errors.email?.message}>
            <Input
              type="email"
              {...form.register('email', { required: 'Enter an e-mail address.' })}
              autoComplete="username"
            />
          </Field>
          <Field
            label="Password"
            {...(first ? { hint: 'At least ten characters.' } : {})}
            error={errors.password?.message}
          >
            <Input
              type="password"
              {...form.register('password', {
                required: 'Enter the password.',
                ...(first ? { minLength: { value: 10, message: 'At least ten characters.' } } : {}),
              })}
              autoComplete={first ? 'new-password' : 'current-password'}
            />
          </Field>
          {enter.error && <Notice kind="bad">{enter.error.message}</Notice>}
          <button className="btn pri min-h-[38px]" disabled={enter.isPending || status.isPending}>
            {first ? 'Open the shop' : 'Sign in'}
          </button>
        </div>
      </form>
    </main>
  );
}
