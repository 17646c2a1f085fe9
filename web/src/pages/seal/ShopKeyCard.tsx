import { longDay } from '@prandel/presentation';
import { useMutation, useQuery } from '@tanstack/react-query';
import { ask, queries } from '../../api/client.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { Notice } from '../../parts/Field.tsx';
import { useMay } from '../../parts/May.tsx';

/** The key under which the shop seals: what others compare, where its file lies, and what becomes of it when it is changed. */
export function ShopKeyCard() {
  const owner = useMay('owner');
  const key = useQuery({ queryKey: ['key'], queryFn: () => ask('get', '/api/key') });
  const change = useMutation({
    mutationFn: (lost: boolean) => ask('post', '/api/key/change', { body: { lost } }),
    onSettled: () => queries.invalidateQueries({ queryKey: ['key'] }),
  });
  if (!key.data) return key.error ? <Notice kind="bad">{key.error.message}</Notice> : null;
  const { state, file, history } = key.data;
  const { fingerprint } = key.data.key;
  return (
    <section className="sheet card grid gap-2" aria-label="Key of the shop">
      <h2>The shop’s key</h2>
      <p className="text-ink-2">
        Sealed reports are signed with it. Put this fingerprint where customers find it, on the shop’s own web site or
        on the wall: whoever checks a report compares the two.
      </p>
      <p className="num text-[19px] leading-snug" aria-label="Fingerprint">
        {fingerprint.slice(0, 39)}
        <br />
        {fingerprint.slice(40)}
      </p>
      {state === 'there' ? (
        <p className="text-ink-2">
          Its file is <b>{file}</b> in the data folder, outside the database and in no backup of it. Keep a copy where
          the server’s disk is not; without it nothing more can be sealed.
        </p>
      ) : (
        <Notice kind="bad">
          {state === 'missing'
            ? `The key file ${file} is gone: nothing can be sealed. Put its copy back. What was sealed before still holds.`
            : `The key file ${file} holds another key. Put the right one back. What was sealed before still holds.`}
        </Notice>
      )}
      {change.error && <Notice kind="bad">{change.error.message}</Notice>}
      {owner && state === 'there' && (
        <AskInPlace
          label="Change the key"
          question="Change it? The old key signs the new one and is then gone."
          yes="Change it"
          busy={change.isPending}
          onYes={() => change.mutate(false)}
        />
      )}
      {owner && state !== 'there' && (
        <AskInPlace
          label="The key is lost: make a new one"
          question="Make a new key that the old one does not sign? Tell your customers."
          yes="Make it"
          busy={change.isPending}
          onYes={() => change.mutate(true)}
        />
      )}
      {history.length > 1 && (
        <ol className="grid gap-1 text-[12px]" aria-label="Keys before it">
          {history.map((one, i) => (
            <li key={one.publicKey}>
              <span className="num">{one.fingerprint.slice(0, 19)} …</span>{' '}
              <span className="text-ink-2">
                since {longDay(one.madeAt, null)}, made by {one.madeBy}
                {i < history.length - 1 &&
                  (one.changeSignature ? '; signed by the key before it' : '; not signed by the key before it')}
              </span>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}
