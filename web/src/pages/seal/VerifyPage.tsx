import { useRef, useState } from 'react';
import { Mark } from '../../parts/marks.tsx';
import { checkBytes } from '../../verifying/checkFile.ts';
import { CheckList } from '../../verifying/CheckList.tsx';
import type { CheckedFile } from '../../verifying/verify.worker.ts';

interface Looked {
  readonly name: string;
  readonly checked: CheckedFile;
}

/** Checks packages and reports for whoever has them: without signing in, and without sending anything anywhere. */
export function VerifyPage() {
  const [looked, setLooked] = useState<readonly Looked[]>([]);
  const [busy, setBusy] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const look = async (files: readonly File[]) => {
    for (const file of files) {
      setBusy(file.name);
      const checked = await checkBytes(await file.arrayBuffer());
      setLooked((before) => [{ name: file.name, checked }, ...before]);
    }
    setBusy(null);
  };
  return (
    <main
      className="mx-auto grid max-w-[760px] gap-4 p-4 sm:p-6"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void look([...e.dataTransfer.files]);
      }}
    >
      <div className="brand">
        <Mark />
        Prandel
      </div>
      <div>
        <h1>Check a sealed report or package</h1>
        <p className="text-ink-2 mt-1 text-[15px]">
          The file is read by this page and goes nowhere: no server sees it. Every pull is held against the log, and the
          verdicts are worked out anew.
        </p>
      </div>
      <div
        className={`grid place-items-center gap-3 rounded border-2 border-dashed p-8 text-center ${over ? 'border-ink bg-sheet' : 'border-[var(--ctl-line)]'}`}
      >
        <p className="text-[16px]">Drop a report (HTML) or a package (ZIP) here</p>
        <button type="button" className="btn pri" onClick={() => input.current?.click()}>
          Choose a file
        </button>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          accept=".zip,.html,.htm"
          aria-label="File to check"
          onChange={(e) => {
            void look([...(e.target.files ?? [])]);
            e.target.value = '';
          }}
        />
      </div>
      {busy && (
        <div>
          <div className="progress" role="progressbar" aria-label="Checking" />
          <p className="text-ink-2 mt-1">Checking {busy}; a large package takes some seconds.</p>
        </div>
      )}
      {looked.map(({ name, checked }, i) => (
        <CheckList key={looked.length - i} name={name} checked={checked} />
      ))}
    </main>
  );
}
