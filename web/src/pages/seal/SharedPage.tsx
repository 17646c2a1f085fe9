import { longDay, VERDICT_STYLES, verdictLook } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useLocation } from 'react-router';
import { ask } from '../../api/client.ts';
import type { SharedAnswer } from '../../api/client.ts';
import { VerdictTag, Mark } from '../../parts/marks.tsx';
import { SealMark } from '../../parts/SealMark.tsx';
import { checkBytes } from '../../verifying/checkFile.ts';
import { CheckList } from '../../verifying/CheckList.tsx';
import type { CheckedFile } from '../../verifying/verify.worker.ts';

/** What a shared link opens: made for a phone, for somebody who paid for a part and a day. */
export function SharedPage() {
  const token = useLocation().hash.slice(1);
  const shared = useQuery({
    queryKey: ['shared', token],
    queryFn: () => ask('get', '/api/shared/{token}', { params: { path: { token: token || 'none' } } }),
    retry: false,
    refetchOnWindowFocus: false,
    staleTime: Infinity,
  });
  return (
    <main className="mx-auto grid max-w-[560px] gap-4 p-4 text-[16px] leading-snug">
      {shared.isPending && <div className="progress" role="progressbar" aria-label="Opening the report" />}
      {shared.error && (
        <section className="sheet grid gap-2 p-5">
          <h1>This link opens nothing</h1>
          <p role="alert">{shared.error.message}</p>
        </section>
      )}
      {shared.data && <Shared shared={shared.data} token={token} />}
    </main>
  );
}

function Shared({ shared, token }: { shared: SharedAnswer; token: string }) {
  const { page, shop, sealedAt, by, reopened, sealedAgain } = shared;
  return (
    <>
      <header className="flex items-center gap-2 text-[14px]">
        <b className="grow">{shop}</b>
        <SealMark size={20} />
        <span className="text-ink-2">Sealed {longDay(sealedAt, null)}</span>
      </header>
      {(reopened || sealedAgain) && (
        <p className="notice warn">
          {sealedAgain
            ? 'The shop has sealed this job again since. Ask it for the newer report.'
            : `The shop has reopened this job since: ${reopened!.reason}`}
        </p>
      )}
      {page.results.map((result) => {
        const look = verdictLook(result.verdict, result.measure);
        return (
          <section key={`${result.setup} ${result.measure}`} className="grid gap-3">
            <h1 className="!text-[22px] !leading-[1.25]">{result.sentence}</h1>
            <p className="text-ink-2">
              {result.label}, {page.vehicle}
              {page.day && `, ${page.day}`}
            </p>
            <div className="flex flex-wrap items-baseline gap-x-3">
              {result.estimate && (
                <span
                  className={`num text-[44px] leading-none ${look === VERDICT_STYLES['not-comparable'] ? 'line-through' : ''}`}
                >
                  {result.estimate} <span className="text-[20px]">{result.unit}</span>
                </span>
              )}
              <VerdictTag verdict={result.verdict} measure={result.measure} size={16} word="long" />
            </div>
            {result.picture && <div className="sheet p-2" dangerouslySetInnerHTML={{ __html: result.picture }} />}
            <div className="grid gap-1.5">
              <h2>What this means</h2>
              <p>{result.sure}.</p>
              {result.means.map((words) => (
                <p key={words}>{words}</p>
              ))}
            </div>
          </section>
        );
      })}
      <section className="grid gap-1.5">
        <h2>How it was measured</h2>
        {page.how.map((words) => (
          <p key={words}>{words}</p>
        ))}
        <a className="btn min-h-[44px] justify-self-start !text-[15px]" href={`/api/shared/${token}/report`}>
          The whole report
        </a>
      </section>
      <CheckYourself token={token} fingerprint={shared.fingerprint} by={by} />
      <footer className="text-ink-3 flex items-center gap-1.5 text-[12px]">
        <Mark /> Made with Prandel
      </footer>
    </>
  );
}

/** The proof: checked in the customer's own browser, on a tap. */
function CheckYourself({ token, fingerprint, by }: { token: string; fingerprint: string; by: string }) {
  const [checked, setChecked] = useState<CheckedFile | 'busy' | null>(null);
  const check = async () => {
    setChecked('busy');
    const answer = await fetch(`/api/shared/${token}/package`).catch(() => null);
    setChecked(
      answer?.ok
        ? await checkBytes(await answer.arrayBuffer())
        : { problem: 'The package could not be fetched. Look whether you are online, then try again.' },
    );
  };
  return (
    <section className="grid gap-2">
      <h2>Check it yourself</h2>
      <p>
        {by} sealed the measurements. Your own device can check that nothing was changed since and work the result out
        anew from every pull.
      </p>
      <div className="flex flex-wrap gap-2">
        <button
          type="button"
          className="btn pri min-h-[44px] !text-[15px]"
          disabled={checked === 'busy'}
          onClick={() => void check()}
        >
          Check the seal now
        </button>
        <a className="btn min-h-[44px] !text-[15px]" href={`/api/shared/${token}/package`}>
          All raw pulls (ZIP)
        </a>
      </div>
      {checked === 'busy' && <div className="progress" role="progressbar" aria-label="Checking" />}
      {checked && checked !== 'busy' && <CheckList name="The sealed package" checked={checked} />}
      <p className="text-ink-2 text-[13px]">
        Key of the shop: <span className="num">{fingerprint}</span>
      </p>
    </section>
  );
}
