import { memo } from 'react';
import {
  narrowerLines,
  seesFromWords,
  stairLines,
  suspectedWords,
  widthLines,
  type ShownUnits,
} from '@prandel/presentation';
import type { CandidateVerdict } from '@prandel/core';

/** How the number came about, what its width is made of, and what would make it narrower. */
export const CameAboutCard = memo(function CameAboutCard({ v, units }: { v: CandidateVerdict; units: ShownUnits }) {
  const { unit, lines } = stairLines(v, units);
  if (lines.length === 0) return null;
  const all = [0, ...lines.map((l) => l.to)];
  const [low, high] = [Math.min(...all), Math.max(...all)];
  const x = (value: number) => 4 + ((value - low) / (high - low || 1)) * 96;
  const shares = widthLines(v);
  const ways = narrowerLines(v, units);
  return (
    <section
      className="sheet card grid items-start gap-x-6 gap-y-3 md:grid-cols-2"
      aria-label="How the number came about"
    >
      <div>
        <h3>How the number came about</h3>
        <table className="table mt-1 [&_td]:!py-[3px]" data-testid="stair">
          <thead>
            <tr>
              <th>
                {v.candidate} against {v.baseline}, {unit}
              </th>
              <th>
                <span className="sr-only">Drawn to scale</span>
              </th>
              <th className="r">change</th>
              <th className="r">then</th>
            </tr>
          </thead>
          <tbody>
            {lines.map((l, i) => (
              <tr key={l.kind} className={i === lines.length - 1 ? 'font-[650]' : ''}>
                <td className="leading-snug">{l.words}</td>
                <td className="!pr-2">
                  <svg width="104" height="14" aria-hidden>
                    <line x1={x(0)} x2={x(0)} y1="0" y2="14" stroke="var(--ink-3)" />
                    <rect
                      x={Math.min(x(l.from), x(l.to))}
                      y="4"
                      width={Math.max(1, Math.abs(x(l.to) - x(l.from)))}
                      height="6"
                      fill="var(--ink-2)"
                      fillOpacity={i === 0 ? 0.85 : 0.4}
                    />
                    <line x1={x(l.to)} x2={x(l.to)} y1="1" y2="13" stroke="var(--ink)" strokeWidth="2" />
                  </svg>
                </td>
                <td className="r">{l.change ?? ''}</td>
                <td className="r">{l.after}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {v.gain && (
          <p className="text-ink-2 mt-1 text-[12px]">
            The last line is the result. {seesFromWords(v, units)} {suspectedWords(v)}
          </p>
        )}
      </div>
      <div>
        {shares.length > 0 && (
          <>
            <h4 className="text-[13px] font-[620]">What the width is made of</h4>
            <div className="mt-1 flex h-[10px] overflow-hidden rounded-[2px]" aria-hidden>
              {shares.map((s, i) => (
                <span
                  key={s.words}
                  style={{ width: `${s.percent}%`, background: 'var(--ink-2)', opacity: [0.9, 0.6, 0.38, 0.2][i] }}
                />
              ))}
            </div>
            <ul className="mt-1 grid gap-0.5 text-[12px]" data-testid="width">
              {shares.map((s, i) => (
                <li key={s.words} className="flex items-center gap-1.5">
                  <span
                    className="h-[9px] w-[9px] flex-none rounded-[2px]"
                    style={{ background: 'var(--ink-2)', opacity: [0.9, 0.6, 0.38, 0.2][i] }}
                    aria-hidden
                  />
                  <span className="grow">{s.words}</span>
                  <span>{s.percent} %</span>
                </li>
              ))}
            </ul>
          </>
        )}
        {ways.length > 0 && (
          <>
            <h4 className="mt-2.5 text-[13px] font-[620]">What would make it narrower</h4>
            <ul className="mt-1 grid gap-0.5 text-[12px]" data-testid="narrower">
              {ways.map((w) => (
                <li key={w.words} className="flex gap-2">
                  <span className="grow">{w.words}</span>
                  <span className="whitespace-nowrap">{w.half}</span>
                </li>
              ))}
            </ul>
          </>
        )}
      </div>
    </section>
  );
});
