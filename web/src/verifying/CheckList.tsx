import { NOT_PROVEN, sealCheckWords, sealStanding } from '@prandel/presentation';
import { Check, Info, X } from 'lucide-react';
import { fingerprint } from '@prandel/formats/seal';
import { SealMark } from '../parts/SealMark.tsx';
import type { CheckedFile } from './verify.worker.ts';

const ICONS = { holds: Check, fails: X, noted: Info };
const INK = { holds: 'text-ok', fails: 'text-act', noted: 'text-ink-3' };
const SPOKEN = { holds: 'Holds:', fails: 'Does not hold:', noted: 'Note:' };

/** What came of checking one file: the answer first, then each check in a line of plain words. */
export function CheckList({ name, checked }: { name: string; checked: CheckedFile }) {
  if ('problem' in checked)
    return (
      <section className="sheet card" aria-label={name}>
        <h2>{name}</h2>
        <p className="text-act mt-1" role="alert">
          {checked.problem}
        </p>
      </section>
    );
  const { seal, checks, title } = checked;
  const { holds, words } = sealStanding(checks, seal !== null);
  const failing = checks.filter((c) => c.state === 'fails');
  const order = [...failing, ...checks.filter((c) => c.state !== 'fails')];
  return (
    <section className="sheet card grid gap-3" aria-label={name}>
      <div className="flex items-center gap-3">
        <SealMark holds={holds && seal !== null} size={54} />
        <div>
          <p className={`text-[24px] font-[650] ${holds ? '' : 'text-act'}`} role="status">
            {words}
          </p>
          <p className="text-ink-2">
            {name}
            {title && `: ${title}`}
          </p>
        </div>
      </div>
      {seal && (
        <p>
          Sealed on {new Date(seal.sealedAt).toLocaleDateString('en-GB', { dateStyle: 'long' })} by {seal.by},{' '}
          <b>{seal.shop}</b>
          {seal.supersedes && ', in place of an earlier seal'}.
        </p>
      )}
      <ul className="grid gap-1.5" aria-label="Checks">
        {order.map((check, i) => {
          const Icon = ICONS[check.state];
          return (
            <li key={i} className="flex gap-2">
              <Icon size={17} aria-hidden className={`mt-px flex-none ${INK[check.state]}`} />
              <span>
                <span className="sr-only">{SPOKEN[check.state]} </span>
                {sealCheckWords(check)}
              </span>
            </li>
          );
        })}
      </ul>
      {seal && <Key publicKey={seal.publicKey} />}
      <p className="text-ink-2 border-rule border-t pt-2">{NOT_PROVEN}</p>
    </section>
  );
}

function Key({ publicKey }: { publicKey: string }) {
  const shown = fingerprint(publicKey);
  return (
    <div>
      <p>Key that signed it. Compare it with the one the shop shows:</p>
      <p className="num mt-1 text-[17px] leading-snug">
        {shown.slice(0, 39)}
        <br />
        {shown.slice(40)}
      </p>
    </div>
  );
}
