import { shortDay } from '@prandel/presentation';
import { Link } from 'react-router';
import { SealMark } from '../parts/SealMark.tsx';

/** Over every page of a sealed job: why nothing on it can be changed, and where that is undone. */
export function SealedBar({ job, sealedAt }: { job: string; sealedAt: string }) {
  return (
    <p className="bg-sheet border-rule flex items-center gap-2 border-b px-4 py-1.5 print:hidden" role="status">
      <SealMark size={18} />
      <b>Sealed</b> on {shortDay(sealedAt, null)}: everything can be looked at, nothing changed.{' '}
      <Link className="underline" to={`/jobs/${job}#seal`}>
        Share or reopen it
      </Link>
    </p>
  );
}
