import {
  measureWords,
  narrowerLines,
  seesFromWords,
  stairLines,
  suspectedWords,
  widthLines,
} from '@prandel/presentation';
import type { CandidateVerdict } from '@prandel/core';
import type { ReportInput } from './reportInput.ts';

/** For each candidate: from the means of the curves to the result, step by step, and what its width is made of. */
export function HowItCameAbout({ input: { judgement, units } }: { input: ReportInput }) {
  const shown = judgement.verdicts.filter((v) => v.steps.length > 0);
  if (shown.length === 0) return null;
  return (
    <section>
      <h2>
        How the number came about<span>from the means of the curves to the result; what its width is made of</span>
      </h2>
      <div className="pulls">
        {shown.map((v) => (
          <Stair key={`${v.candidate} ${v.measure}`} v={v} units={units} />
        ))}
      </div>
    </section>
  );
}

function Stair({ v, units }: { v: CandidateVerdict; units: ReportInput['units'] }) {
  const { unit, lines } = stairLines(v, units);
  const ways = narrowerLines(v, units);
  return (
    <div>
      <table>
        <thead>
          <tr>
            <th>
              {v.candidate} against {v.baseline}, {measureWords(v.measure).name}
            </th>
            <th className="r">change, {unit}</th>
            <th className="r">then, {unit}</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((l, i) => (
            <tr key={l.kind}>
              <td>{i === lines.length - 1 ? <b>{l.words}</b> : l.words}</td>
              <td className="r">{l.change ?? ''}</td>
              <td className="r">{i === lines.length - 1 ? <b>{l.after}</b> : l.after}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="small mut notes">
        {seesFromWords(v, units)} {suspectedWords(v)} The width is made of{' '}
        {widthLines(v)
          .map((s) => `${s.words} ${s.percent} %`)
          .join(', ')}
        .
      </p>
      {ways.length > 0 && (
        <p className="small mut notes">
          What would make it narrower: {ways.map((w) => `${w.words} (${w.half})`).join('; ')}.
        </p>
      )}
    </div>
  );
}
