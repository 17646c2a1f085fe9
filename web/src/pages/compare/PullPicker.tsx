import type { Job } from '@prandel/core';
import { ListFilter } from 'lucide-react';
import { Popover } from 'radix-ui';
import { Badge } from '../../parts/marks.tsx';

/** Single pulls on and off the picture; what counts is decided on the job's page. */
export function PullPicker({
  job,
  hidden,
  onToggle,
  aside,
  onAside,
  names,
}: {
  job: Job;
  hidden: ReadonlySet<string>;
  onToggle: (id: string) => void;
  aside: boolean;
  onAside: (on: boolean) => void;
  names: Map<string, string>;
}) {
  return (
    <Popover.Root>
      <Popover.Trigger className="btn sm !px-2" aria-label="Choose pulls">
        <ListFilter size={14} aria-hidden />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="pop grid max-h-[420px] max-w-[340px] gap-2 overflow-auto"
          sideOffset={6}
          align="end"
          aria-label="Choose pulls"
        >
          {job.setups.map((s) => (
            <div key={s.id} className="flex flex-wrap items-center gap-1.5">
              <Badge id={s.id} setups={job.setups} />
              {job.pulls
                .filter((p) => p.setupId === s.id && p.status === 'counted')
                .map((p) => (
                  <button
                    key={p.id}
                    className="btn sm !min-h-[26px] !px-2"
                    aria-pressed={!hidden.has(p.id)}
                    style={hidden.has(p.id) ? { borderStyle: 'dashed', color: 'var(--ink-3)' } : {}}
                    onClick={() => onToggle(p.id)}
                  >
                    {names.get(p.id)?.split('·')[1]}
                  </button>
                ))}
            </div>
          ))}
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={aside} onChange={(e) => onAside(e.target.checked)} />
            Show pulls that were set aside, dotted
          </label>
          <p className="text-ink-3 max-w-[300px] text-[11.5px]">
            This changes the picture only. To leave a pull out of the verdict, set it aside on the job’s page.
          </p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
