import { useState, type ReactNode } from 'react';
import { droppedIn, dropReader, type Dropped } from './droppedFiles.ts';

/** A page on which files, folders and archives can be dropped. */
export function DropFiles({
  words,
  onDrop,
  children,
}: {
  words: string;
  onDrop: (dropped: Dropped) => void;
  children: ReactNode;
}) {
  const [over, setOver] = useState(false);
  const ofFiles = (types: readonly string[]) => types.includes('Files');
  return (
    <div
      className="relative"
      onDragOver={(e) => {
        if (!ofFiles(e.dataTransfer.types)) return;
        e.preventDefault();
        if (!over) void dropReader();
        setOver(true);
      }}
      onDragLeave={(e) => {
        if (!e.currentTarget.contains(e.relatedTarget as Node | null)) setOver(false);
      }}
      onDrop={(e) => {
        if (!ofFiles(e.dataTransfer.types)) return;
        e.preventDefault();
        setOver(false);
        void droppedIn(e.nativeEvent).then(onDrop);
      }}
    >
      {over && (
        <div className="pointer-events-none absolute inset-2 z-10 grid place-items-center rounded border-2 border-dashed border-ink bg-sheet/90 text-[20px] font-[620]">
          {words}
        </div>
      )}
      {children}
    </div>
  );
}
