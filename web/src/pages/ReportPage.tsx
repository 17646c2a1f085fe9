import { Download, Printer } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { useParams } from 'react-router';

/** The customer's sheet as it prints. */
export function ReportPage() {
  const { id = '' } = useParams();
  const frame = useRef<HTMLIFrameElement>(null);
  const [height, setHeight] = useState(1400);
  useEffect(() => {
    const fit = () => {
      const body = frame.current?.contentDocument?.documentElement;
      if (body) setHeight(Math.max(600, body.scrollHeight));
    };
    const timer = setInterval(fit, 800);
    return () => clearInterval(timer);
  }, []);
  return (
    <div className="mx-auto grid max-w-[1080px] gap-3 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <h1>Report</h1>
        <p className="text-ink-2">One self-contained sheet; it prints on A4 and Letter and opens without a network.</p>
        <div className="grow" />
        <a className="btn" href={`/api/jobs/${id}/report.html?download=1`}>
          <Download size={15} aria-hidden />
          Download HTML
        </a>
        <button className="btn pri" onClick={() => frame.current?.contentWindow?.print()}>
          <Printer size={15} aria-hidden />
          Print
        </button>
      </div>
      <iframe
        ref={frame}
        title="Report"
        className="sheet w-full"
        style={{ height }}
        src={`/api/jobs/${id}/report.html`}
      />
    </div>
  );
}
