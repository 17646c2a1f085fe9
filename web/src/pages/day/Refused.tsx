import { Notice } from '../../parts/Field.tsx';
import type { StagedDay } from './useStagedDay.ts';

/** Files that stay out, each with its reason; the rest of the day still comes in. */
export function Refused({ staged: { refused, unlaid, leftOut } }: { staged: StagedDay }) {
  const all = [...refused, ...unlaid];
  if (all.length === 0 && leftOut.length === 0) return null;
  return (
    <Notice>
      {all.length > 0 && (
        <ul>
          {all.slice(0, 8).map((f) => (
            <li key={f.name}>
              <b>{f.name}</b> stays out. {f.problems[0]?.line ? `Line ${f.problems[0].line}: ` : ''}
              {f.problems[0]?.message}
            </li>
          ))}
          {all.length > 8 && <li>… and {all.length - 8} more files.</li>}
        </ul>
      )}
      {leftOut.length > 0 && (
        <span>
          {leftOut.length} {leftOut.length === 1 ? 'file is' : 'files are'} no file of pulls and{' '}
          {leftOut.length === 1 ? 'was' : 'were'} not sent: {leftOut.slice(0, 4).join(', ')}
          {leftOut.length > 4 ? ' …' : ''}.
        </span>
      )}
    </Notice>
  );
}
