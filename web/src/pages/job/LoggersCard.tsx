import type { Logger } from '@prandel/core';
import { channelName, laidByWords, plain, residualWords } from '@prandel/presentation';
import { ask, type StoredJob } from '../../api/client.ts';
import { useJobChange } from '../../api/hooks.ts';
import { AskInPlace } from '../../parts/AskInPlace.tsx';
import { Notice } from '../../parts/Field.tsx';

/** Records of other loggers whose channels the pulls carry, each with how it lies; they can be taken off again. */
export function LoggersCard({ stored: { job, rowId } }: { stored: StoredJob }) {
  const remove = useJobChange<string>(rowId, (logger) =>
    ask('delete', '/api/jobs/{id}/loggers/{logger}', { params: { path: { id: rowId, logger } } }),
  );
  if (!job.loggers?.length) return null;
  return (
    <section className="sheet card grid gap-2" aria-label="Loggers">
      <h3>From other loggers</h3>
      {job.loggers.map((own) => (
        <div key={own.id} className="grid gap-1 border-t border-rule pt-1.5 text-[12.5px]">
          <b className="break-all">{own.name}</b>
          <span>
            {own.channels.map(channelName).join(', ')} for {own.pulls.length} pulls
          </span>
          <span className="text-ink-2">{howItLies(own)}</span>
          <AskInPlace
            label={`Take ${own.name} off`}
            question="Its channels leave the pulls; the file stays."
            yes="Take it off"
            busy={remove.isPending}
            onYes={() => remove.mutate(own.id)}
          >
            Take it off
          </AskInPlace>
        </div>
      ))}
      {remove.error && <Notice kind="bad">{remove.error.message}</Notice>}
    </section>
  );
}

function howItLies({ laidBy, offsetS, ratePpm, residual, correlation }: Logger): string {
  const rate =
    ratePpm === null ? '' : `, its clock ${plain(Math.abs(ratePpm), 0)} ppm ${ratePpm < 0 ? 'slower' : 'faster'}`;
  const fit =
    residual === null || correlation === null
      ? ''
      : `; ${residualWords(laidBy, residual)} left over, correlation ${plain(correlation, 4)}`;
  return `${laidBy === 'hand' ? 'Placed by hand' : `Laid by ${laidByWords(laidBy)}`}: the first pull begins at ${plain(offsetS, 2)} s${rate}${fit}.`;
}
