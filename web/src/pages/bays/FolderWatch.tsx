import { FolderSearch } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { send, type Schemas } from '../../api/client.ts';
import { WatchedFolder, type ReadableFolder } from './watchedFolder.ts';

const LOOK_MS = 700;

type Picker = () => Promise<ReadableFolder>;
const picker = () => (window as { showDirectoryPicker?: Picker }).showDirectoryPicker;

/** Watches a folder of this computer while the page is open, where the browser can read one. */
export function FolderWatch({ bay }: { bay: string }) {
  const [folder, setFolder] = useState<ReadableFolder | null>(null);
  const [said, setSaid] = useState('');
  const [problem, setProblem] = useState<string | null>(null);
  const looking = useRef(false);
  useEffect(() => {
    if (!folder) return;
    const key = `prandel sent ${bay} ${folder.name}`;
    const stopping = new AbortController();
    const watched = new WatchedFolder({
      folder,
      sent: digestsKept(key),
      keep: (digests) => localStorage.setItem(key, JSON.stringify(digests)),
      say: setSaid,
      send: (file, changedAt) => {
        const form = new FormData();
        form.append('folder', folder.name);
        form.append('changedAt', changedAt);
        form.append('file', file);
        return send<Schemas['TakenFile']>(`/api/bays/${bay}/files`, form, {
          signal: stopping.signal,
          onSent: () => undefined,
        });
      },
    });
    const look = async () => {
      if (looking.current) return;
      looking.current = true;
      try {
        await watched.look();
        setProblem(null);
      } catch (error) {
        const why = error instanceof Error ? error.message : String(error);
        setProblem(
          `${why} ${watched.waiting} ${watched.waiting === 1 ? 'file waits' : 'files wait'}; it is tried again.`,
        );
      } finally {
        looking.current = false;
      }
    };
    let timer: ReturnType<typeof setInterval> | undefined;
    let stopped = false;
    watched.leaveOld().then(
      (old) => {
        if (stopped) return;
        setSaid(old > 0 ? `${old} files lie there already and are left alone.` : '');
        timer = setInterval(() => void look(), LOOK_MS);
      },
      (error: Error) => setProblem(`The folder cannot be read: ${error.message}. Stop, and choose it again.`),
    );
    return () => {
      stopped = true;
      stopping.abort();
      clearInterval(timer);
    };
  }, [folder, bay]);
  if (!picker())
    return <p className="text-ink-3 text-[12px]">This browser cannot watch a folder; ./prandel watch can.</p>;
  if (!folder)
    return (
      <button
        className="btn sm justify-self-start"
        onClick={() =>
          void picker()!().then(setFolder, () => {
            // Closed without a choice.
          })
        }
      >
        <FolderSearch size={13} aria-hidden />
        Watch a folder from this page
      </button>
    );
  return (
    <div className="flex flex-wrap items-center gap-3">
      <span>
        Watching <b>{folder.name}</b> while this page is open. {said}{' '}
        {problem && <b className="text-wait">{problem}</b>}
      </span>
      <button className="btn sm" onClick={() => setFolder(null)}>
        Stop
      </button>
    </div>
  );
}

/** Digests of the files that were sent from this page before. A list that is damaged is begun anew: the server knows the files that it has. */
function digestsKept(key: string): Set<string> {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(key) ?? '[]');
    return new Set(Array.isArray(kept) ? kept.filter((one) => typeof one === 'string') : []);
  } catch {
    return new Set();
  }
}
