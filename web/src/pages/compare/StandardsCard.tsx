import {
  CORRECTION_IDS,
  CORRECTION_NAMES,
  type CandidateVerdict,
  type CorrectionId,
  type Job,
  type Judgement,
} from '@prandel/core';
import { differenceInterval, gainInterval, outsideWords, withUnit, type ShownUnits } from '@prandel/presentation';
import { memo, useEffect, useState } from 'react';
import { VerdictTag } from '../../parts/marks.tsx';

interface StandardRow {
  readonly standard: CorrectionId;
  readonly v: CandidateVerdict | undefined;
  readonly outside: string;
}

/** The gain under each standard: per cent hardly moves, the number does. Judged when somebody opens it. */
export const StandardsCard = memo(function StandardsCard({
  job,
  v,
  units,
  judgeOnce,
}: {
  job: Job;
  v: CandidateVerdict;
  units: ShownUnits;
  judgeOnce: (other: Job) => Promise<Judgement>;
}) {
  const [open, setOpen] = useState(false);
  const [rows, setRows] = useState<{ of: Job; rows: readonly StandardRow[] } | null>(null);
  const { candidate, measure } = v;
  const wanted = CORRECTION_IDS.filter((id) => id !== 'iso-1585-ci' || job.method.compressionIgnition);
  useEffect(() => {
    if (!open) return;
    let stopped = false;
    const all = async () => {
      const found: StandardRow[] = [];
      for (const standard of wanted) {
        const judgement = await judgeOnce({ ...job, method: { ...job.method, correction: standard } });
        if (stopped) return;
        found.push({
          standard,
          v: judgement.verdicts.find((own) => own.candidate === candidate && own.measure === measure),
          outside: outsideOf(judgement),
        });
        setRows({ of: job, rows: [...found] });
      }
    };
    void all().catch(() => undefined);
    return () => {
      stopped = true;
    };
    // `wanted` follows from the job.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [open, job, candidate, measure, judgeOnce]);
  // Only power and torque are corrected for the weather.
  if (!v.gain || !['W', 'N·m'].includes(v.gain.unit)) return null;
  const shownRows = rows?.of === job ? rows.rows : [];
  return (
    <details
      className="sheet card"
      aria-label="Gain under each standard"
      onToggle={(e) => setOpen(e.currentTarget.open)}
    >
      <summary className="cursor-pointer font-[620]">Gain under each standard</summary>
      <table className="table mt-1 [&_td]:!py-0.5">
        <tbody>
          {shownRows.map(({ standard, v: own, outside }) => {
            const gain = own?.gain;
            const g = gain ? gainInterval(gain, units) : null;
            const { percent, lowPercent, highPercent } = gain ?? {};
            const share =
              percent == null || lowPercent == null || highPercent == null
                ? null
                : differenceInterval({ estimate: percent, low: lowPercent, high: highPercent, unit: '%' }, units);
            return (
              <tr key={standard} data-standard={standard}>
                <td className={standard === job.method.correction ? 'font-[650]' : ''}>
                  {CORRECTION_NAMES[standard]}
                  {outside && <span className="text-wait block text-[11.5px]">{outside}</span>}
                </td>
                <td className="r whitespace-nowrap">{g ? `${g.estimate} ±${withUnit(g.half, g.unit)}` : '–'}</td>
                <td className="r whitespace-nowrap">{share ? `${share.estimate} ±${share.half} %` : ''}</td>
                <td className="whitespace-nowrap">{own && <VerdictTag verdict={own.verdict} measure={measure} />}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {open && shownRows.length < wanted.length && (
        <div className="progress mt-1" role="progressbar" aria-label="Judging under other standards" />
      )}
    </details>
  );
});

/** Where the weather of some pulls lay outside what the standard was published for. */
function outsideOf(judgement: Judgement): string {
  const words = new Set<string>();
  for (const pull of judgement.pulls)
    for (const f of pull.findings)
      if (f.code === 'outside-validity') for (const q of f.parameters.quantities) words.add(outsideWords(q));
  return [...words].join(', ');
}
