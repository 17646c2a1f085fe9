import {
  agreementOf,
  roadForecast,
  tolerance,
  type CandidateVerdict,
  type DeclaredMeasure,
  type Job,
  type Judgement,
  type RoadForecast,
} from '@prandel/core';
import {
  agreementWords,
  conditionWords,
  distanceFigures,
  distancesBeyond,
  feltWords,
  forecastBasis,
  forecastFigures,
  nextStep,
  noForecastWords,
  resultSentence,
  roadFigures,
  roadSvg,
  verdictLook,
  verdictReasonWords,
  type RoadFigures,
} from '@prandel/presentation';
import { useMemo } from 'react';
import { useUnits } from '../../api/hooks.ts';
import { Badge, VerdictTag } from '../../parts/marks.tsx';

/** What the road says of one candidate in seconds, per cent and g, and what the rollers forecast beside it. */
export function RoadVerdict({
  job,
  judgement,
  v,
  measure,
  declared,
}: {
  job: Job;
  judgement: Judgement;
  v: CandidateVerdict;
  measure: DeclaredMeasure;
  declared: boolean;
}) {
  const units = useUnits();
  const look = verdictLook(v.verdict, v.measure);
  const road = roadFigures(v);
  const forecast = useMemo(
    () => roadForecast(job, judgement, v.candidate, measure),
    [job, judgement, v.candidate, measure],
  );
  const known = typeof forecast === 'string' ? null : forecast;
  const rollers = known && forecastFigures(known);
  const agreement = v.gain && known ? agreementOf(v.gain, known, v.meaningful) : null;
  const picture = useMemo(() => roadSvg(job, v, known, { width: 402, fontSize: 11 }), [job, v, known]);
  const row = (name: string, of: (f: RoadFigures) => string) => (
    <tr>
      <th scope="row" className="text-left font-[560]">
        {name}
      </th>
      <td className="r whitespace-nowrap">{road ? of(road) : '–'}</td>
      <td className="r whitespace-nowrap">{rollers ? of(rollers) : '–'}</td>
    </tr>
  );
  return (
    <section
      className="sheet p-3.5"
      style={declared ? { borderLeft: `6px solid ${look.colour}` } : {}}
      aria-label={`Road verdict on ${v.candidate}`}
    >
      <div className="flex items-center gap-2 text-[18px]" data-testid="road-verdict">
        <Badge id={v.candidate} setups={job.setups} />
        {declared ? (
          <VerdictTag verdict={v.verdict} measure={v.measure} word="long" size={17} />
        ) : (
          <span className="text-ink-2 text-[15px]">also seen, without a verdict</span>
        )}
      </div>
      <p className="mt-1.5 text-[13.5px] leading-snug">
        {declared ? resultSentence(job, v, units, null) : road ? '' : resultSentence(job, v, units, null)}{' '}
        {declared && (
          <span className="text-ink-2">
            {v.verdict === 'not-comparable' ? verdictReasonWords(v, v.conditions.findings, units) : nextStep(v)}
          </span>
        )}
      </p>
      <table className="table mt-2 text-[12.5px]" aria-label="Road and rollers">
        <thead>
          <tr>
            <th />
            <th className="r">On the road</th>
            <th className="r">By the rollers</th>
          </tr>
        </thead>
        <tbody>
          {row('Seconds', (f) => f.seconds)}
          {row('Per cent', (f) => f.percent)}
        </tbody>
      </table>
      {(road ?? rollers) && (
        <p className="text-ink-2 mt-1 text-[12.5px]">
          Mean acceleration: {road ? `${road.g} on the road` : ''}
          {road && rollers ? '; ' : ''}
          {rollers ? `${rollers.g} by the rollers` : ''}.
        </p>
      )}
      {picture && <div className="mt-2" data-testid="road-picture" dangerouslySetInnerHTML={{ __html: picture }} />}
      {typeof forecast === 'string' ? (
        <p className="text-wait mt-1.5 text-[12.5px]">{noForecastWords(forecast)}</p>
      ) : (
        <>
          {agreement && (
            <p className="mt-1.5 text-[13px] font-[620]" data-testid="road-agreement">
              {agreementWords(agreement)}
            </p>
          )}
          <p className="mt-1 text-[13px]">{feltWords(forecast, tolerance(job.method, 'feltPercent'))}</p>
          {forecast.distances.length > 0 && <Distances of={forecast} fromKmH={measure.fromKmH!} />}
          <p className="text-ink-2 mt-1 text-[12px]">
            {distancesBeyond(forecast)} {forecastBasis(forecast)}
          </p>
        </>
      )}
      {v.conditions.findings.length > 0 && (
        <ul className="text-ink-2 mt-1.5 list-disc pl-4 text-[12px]">
          {v.conditions.findings.map((f, i) => (
            <li key={i} className={f.severity === 'info' ? '' : 'text-wait'}>
              {conditionWords(f, v, units)}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** Times over distances from the lower speed on, in the gear of the pulls. */
function Distances({ of, fromKmH }: { of: RoadForecast; fromKmH: number }) {
  return (
    <table className="table mt-2 text-[12.5px]" aria-label="Distances by the rollers">
      <thead>
        <tr>
          <th>From a rolling {fromKmH} km/h</th>
          {!of.fitted && <th className="r">Seconds</th>}
          <th className="r">Change</th>
          <th className="r">At its end</th>
        </tr>
      </thead>
      <tbody>
        {of.distances.map((d) => {
          const { name, seconds, change, atTheEnd } = distanceFigures(d, of.fitted);
          return (
            <tr key={d.metres}>
              <th scope="row" className="text-left font-[560]">
                {name}
              </th>
              {!of.fitted && <td className="r whitespace-nowrap">{seconds}</td>}
              <td className="r whitespace-nowrap">{change}</td>
              <td className="r whitespace-nowrap">{atTheEnd}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
