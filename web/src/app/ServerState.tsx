import { useQuery } from '@tanstack/react-query';
import type { Schemas } from '../api/client.ts';
import { Notice } from '../parts/Field.tsx';

/** What the server says of itself, also when it is not well. */
async function health(): Promise<Schemas['Health']> {
  const answer = await fetch('/api/health');
  return (await answer.json()) as Schemas['Health'];
}

/** A line over every page while the server is short of something; nothing while it is well. */
export function ServerState() {
  const { data } = useQuery({ queryKey: ['health'], queryFn: health, refetchInterval: 30_000, retry: false });
  const line = data ? sentence(data) : null;
  return line ? (
    <div className="mx-auto max-w-[1280px] px-4 pt-3 print:hidden">
      <Notice kind={data?.ready ? 'warn' : 'bad'}>{line}</Notice>
    </div>
  ) : null;
}

function sentence({ disk, diskFreeBytes, bays, database }: Schemas['Health']): string | null {
  const free = diskFreeBytes === null ? '' : `${(diskFreeBytes / 1e9).toFixed(1)} GB`;
  if (database === 'away')
    return 'The database does not answer. Pulls in the bays wait in memory; do not stop the server.';
  if (bays === 'away') return 'The process of the bays is being started again; the run sheets come back by themselves.';
  if (disk === 'full')
    return `The server’s disk has ${free} left: nothing is imported until space is made. Pulls are still recorded.`;
  if (disk === 'low') return `The server’s disk has ${free} left. Make space before the next day.`;
  return null;
}
