import { Download } from 'lucide-react';
import { takeCsv, takePng, takeSvg } from './asFile.ts';

function withPicture(svg: string | (() => string | null), then: (svg: string) => void): void {
  const own = typeof svg === 'string' ? svg : svg();
  if (own) then(own);
}

/** Ways to take a table or a picture along. */
export function TakeAway({
  name,
  rows,
  svg,
}: {
  /** Name of the file, without its ending. */
  name: string;
  rows?: readonly Readonly<Record<string, unknown>>[];
  /** The picture, or how to read it off the page when it is wanted. */
  svg?: string | (() => string | null);
}) {
  return (
    <span className="inline-flex items-center gap-1.5 print:hidden" role="group" aria-label={`Take ${name} along`}>
      <Download size={13} className="text-ink-3" aria-hidden />
      {rows && rows.length > 0 && (
        <button type="button" className="btn sm" onClick={() => void takeCsv(rows, name)}>
          CSV
        </button>
      )}
      {svg && (
        <>
          <button type="button" className="btn sm" onClick={() => withPicture(svg, (own) => takeSvg(own, name))}>
            SVG
          </button>
          <button type="button" className="btn sm" onClick={() => withPicture(svg, (own) => void takePng(own, name))}>
            PNG
          </button>
        </>
      )}
    </span>
  );
}
