import {
  airExplains,
  channelWords,
  factsNamed,
  heatCoefficient,
  isCurved,
  measureName,
  type CandidateVerdict,
  type Job,
  type Judgement,
} from '@prandel/core';
import {
  channelName,
  channelOfMeasure,
  channelReading,
  interval,
  measureWords,
  plain,
  readChannels,
  signed,
  temperatureStep,
  trendOf,
  type ShownUnits,
} from '@prandel/presentation';
import { memo, useState } from 'react';
import { Badge, VerdictTag } from '../../parts/marks.tsx';

/** The measures of the question with what came of each for a candidate; the chosen one is spelled out below. */
export const MeasureList = memo(function MeasureList({
  judgement,
  candidate,
  measure,
  onChoose,
}: {
  judgement: Judgement;
  candidate: string;
  measure: string;
  onChoose: (measure: string) => void;
}) {
  const own = judgement.verdicts.filter((v) => v.candidate === candidate);
  return (
    <div className="grid gap-1" role="group" aria-label="Measure">
      {own.map((v) => (
        <button
          key={v.measure}
          className={`sheet flex min-h-[40px] items-center gap-2 px-3 text-left text-[13px] ${v.measure === measure ? 'font-[650] ring-2 ring-ink' : ''}`}
          aria-pressed={v.measure === measure}
          onClick={() => onChoose(v.measure)}
        >
          <span className="min-w-0 flex-1">{capital(measureWords(v.measure).name)}</span>
          <VerdictTag verdict={v.verdict} measure={v.measure} />
        </button>
      ))}
    </div>
  );
});

export const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

export interface Shown {
  readonly job: Job;
  readonly judgement: Judgement;
  readonly hiddenSetups: ReadonlySet<string>;
  readonly showPulls: boolean;
  readonly units: ShownUnits;
  readonly rpm: readonly [number, number];
}

/** Start, end, peak and rise of a temperature, pull by pull, with the trend of its starts within the rounds. */
export const HeatCard = memo(function HeatCard({ job, judgement, units }: Pick<Shown, 'job' | 'judgement' | 'units'>) {
  const temperatures = readChannels(judgement).filter((c) => channelWords(c).unit === '°C');
  const asked = job.question.measures.flatMap((m) => channelOfMeasure(measureName(m)) ?? []);
  const [chosen, setChosen] = useState<string | null>(null);
  const channel =
    temperatures.find((c) => c === chosen) ?? temperatures.find((c) => asked.includes(c)) ?? temperatures[0];
  if (channel === undefined) return null;
  const { to, unit, digits } = channelReading(channel, units);
  const shown = (value: number) => (Number.isFinite(value) ? plain(to(value), digits) : '–');
  const heat = heatCoefficient(job, judgement);
  const perDegree = units.temperature === '°F' ? 1 / 1.8 : 1;
  const rows = judgement.pulls.flatMap((p) => {
    const own = p.readings.channels.find((c) => c.name === channel);
    return own ? [{ p, own }] : [];
  });
  // Only a hold has a plateau, and only a recording that runs on tells how long the way back is.
  const held = rows.some(({ own }) => Number.isFinite(own.plateau));
  const back = rows.some(({ own }) => Number.isFinite(own.recoveryS));
  return (
    <section className="sheet card" aria-label="Heat, pull by pull">
      <div className="flex flex-wrap items-center gap-1.5">
        <h3 className="mr-1">Heat, pull by pull</h3>
        {temperatures.map((c) => (
          <button key={c} className="chip" aria-pressed={c === channel} onClick={() => setChosen(c)}>
            {capital(channelName(c))}
          </button>
        ))}
      </div>
      <div className="mt-1 grid gap-x-6 gap-y-3 md:grid-cols-2">
        {job.setups.map((setup) => {
          const own = rows.filter(({ p }) => p.setupId === setup.id);
          if (own.length === 0) return null;
          const trend = trendOf(judgement, job, setup.id, channel);
          return (
            <table key={setup.id} className="table [&_td]:!py-0.5">
              <thead>
                <tr>
                  <th>
                    <Badge id={setup.id} setups={job.setups} />
                  </th>
                  <th className="r">start, {unit}</th>
                  <th className="r">end</th>
                  <th className="r">peak</th>
                  <th className="r">rise</th>
                  {held && <th className="r">held</th>}
                  {back && <th className="r">back in, s</th>}
                </tr>
              </thead>
              <tbody>
                {own.map(({ p, own: c }) => (
                  <tr key={p.id} className={p.used ? '' : 'text-ink-3'}>
                    <td>
                      {p.name}
                      {c.byHand && <span className="text-wait ml-1 text-[11.5px]">by hand</span>}
                    </td>
                    <td className="r">{shown(c.start)}</td>
                    <td className="r">{shown(c.end)}</td>
                    <td className="r">{shown(c.peak)}</td>
                    <td className="r">
                      {Number.isFinite(c.end - c.start)
                        ? signed(temperatureStep(c.end - c.start, units.temperature), digits)
                        : '–'}
                    </td>
                    {held && <td className="r">{shown(c.plateau)}</td>}
                    {back && <td className="r">{Number.isFinite(c.recoveryS) ? plain(c.recoveryS, 0) : '–'}</td>}
                  </tr>
                ))}
                {trend !== null && (
                  <tr className="text-ink-2">
                    <td colSpan={7}>
                      Starts {signed(temperatureStep(trend, units.temperature))} {unit} a pull.
                    </td>
                  </tr>
                )}
              </tbody>
            </table>
          );
        })}
      </div>
      {heat && (
        <p className="text-ink-2 mt-1.5 text-[12px]" data-testid="heat-coefficient">
          This car by these pulls: {signed(-heat.percentPerC * perDegree, 2)} % of mean power per {units.temperature} of
          start temperature above the bay’s air, 95 % between {signed(-heat.high * perDegree, 2)} and{' '}
          {signed(-heat.low * perDegree, 2)}, from {heat.pulls} pulls of {heat.rounds} rounds. It explains; the verdict
          does not use it.
        </p>
      )}
    </section>
  );
});

/** What the density of the air would explain of a difference of power, on one scale with the measured interval, and what is left. */
export const AirCard = memo(function AirCard({
  job,
  judgement,
  v,
  units,
}: Pick<Shown, 'job' | 'judgement' | 'units'> & { v: CandidateVerdict }) {
  if (!isCurved(factsNamed(v.measure))) return null;
  const air = airExplains(job, judgement, v.candidate);
  if (!air || !v.gain || v.gain.percent === null) return null;
  const { percent, lowPercent, highPercent } = v.gain;
  const [low, high] = [Math.min(0, air.percent, lowPercent!), Math.max(0, air.percent, highPercent!)];
  const x = (value: number) => 4 + ((value - low) / (high - low || 1)) * 112;
  const i = interval(percent, lowPercent!, highPercent!);
  const bar = (from: number, to: number, tone: string) => (
    <rect x={Math.min(x(from), x(to))} y="6" width={Math.max(1, Math.abs(x(to) - x(from)))} height="8" fill={tone} />
  );
  const row = 'grid grid-cols-[minmax(0,1fr)_104px_86px] items-center gap-x-2 min-h-[23px] text-[12px]';
  const line = (words: string, drawn: React.ReactNode, figure: string) => (
    <div className={row}>
      <span>{words}</span>
      <svg viewBox="0 0 120 20" height="20" aria-hidden>
        <line x1={x(0)} x2={x(0)} y1="0" y2="20" stroke="var(--ink)" />
        {drawn}
      </svg>
      <span className="text-right whitespace-nowrap">{figure}</span>
    </div>
  );
  const t = (celsius: number) => `${plain(channelReading('intake_c', units).to(celsius), 1)} ${units.temperature}`;
  const { ignition_deg: timing, lambda } = air.beside;
  return (
    <section className="sheet card" aria-label="What the air alone would explain">
      <h3>What the air alone would explain</h3>
      {line('Measured', bar(lowPercent!, highPercent!, 'var(--ink-3)'), `${i.estimate} ±${i.half} %`)}
      {line('Air, to first order', bar(0, air.percent, 'var(--ink)'), `${signed(air.percent)} %`)}
      {line('The rest', bar(0, percent - air.percent, 'var(--rule-strong)'), `${signed(percent - air.percent)} %`)}
      <p className="text-ink-2 mt-1 text-[12px]">
        {capital(channelName(air.temperature))} {t(air.baseline.celsius)} to {t(air.candidate.celsius)},{' '}
        {air.pressure === 'manifold_kpa' ? 'manifold' : 'ahead of the throttle'} {plain(air.baseline.pressure, 1)} to{' '}
        {plain(air.candidate.pressure, 1)} kPa over the window.
        {timing !== null && ` Timing ${signed(timing)}°`}
        {lambda !== null && `${timing === null ? ' Lambda' : ', lambda'} ${signed(lambda, 3)}`}
        {(timing !== null || lambda !== null) && ', not converted.'}
      </p>
    </section>
  );
});
