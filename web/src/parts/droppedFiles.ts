/** What no pull ever is; such files are not sent. */
const NO_PULLS = /\.(jpe?g|png|gif|heic|webp|bmp|tiff?|mp4|mov|avi|mkv|mp3|wav|m4a|pdf|docx?|pptx?|exe|dll|msi)$/i;
/** What systems leave in folders. */
const LITTER = /^(\.|thumbs\.db$|desktop\.ini$)/i;

/** Files on their way from where they were dropped to where they are laid out. */
export interface Dropped {
  readonly files: readonly File[];
  /** Names of what is not sent. */
  readonly leftOut: readonly string[];
}

/** Sorts out what can be no pull. */
export function sorted(all: readonly File[]): Dropped {
  const files = all.filter((f) => !LITTER.test(f.name));
  return {
    files: files
      .filter((f) => !NO_PULLS.test(f.name))
      .sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true })),
    leftOut: files.filter((f) => NO_PULLS.test(f.name)).map((f) => f.name),
  };
}

/** What reads folders out of a drop; asked for when something is dragged, so that no page is the heavier for it. */
export const dropReader = () => import('file-selector');

/** Files of a drop, those of its folders too. */
export async function droppedIn(event: DragEvent): Promise<Dropped> {
  // A drop is empty once its event is over: what is in it is taken out before the reader is waited for.
  const items = Array.from(event.dataTransfer?.items ?? [], (item) => {
    const [entry, file] = [item.webkitGetAsEntry(), item.getAsFile()];
    return { kind: item.kind, type: item.type, webkitGetAsEntry: () => entry, getAsFile: () => file };
  });
  const { fromEvent } = await dropReader();
  const all = await fromEvent({ type: 'drop', dataTransfer: { items } });
  return sorted(all.filter((f): f is File & typeof f => f instanceof File));
}

let waiting: Dropped | null = null;

/** Keeps what was dropped until the page that lays it out is there. */
export function keepDropped(dropped: Dropped): void {
  waiting = dropped;
}

/** How much waits to be laid out. */
export const droppedWaiting = (): number => waiting?.files.length ?? 0;

/** Takes what waits; nothing waits any more. */
export function takeDropped(): Dropped | null {
  const taken = waiting;
  waiting = null;
  return taken;
}
