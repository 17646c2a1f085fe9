import { agreementOf, isOfRoad, measureName, roadForecast, tolerance } from '@prandel/core';
import {
  agreementWords,
  feltWords,
  forecastBasis,
  forecastFigures,
  noForecastWords,
  roadFigures,
  roadSvg,
} from '@prandel/presentation';
import type { ReportInput } from './reportInput.ts';

/** The road check of a job whose question asks for it: every pass, and the rollers' forecast beside what the road gave. */
export function ReportRoad({ input: { job, judgement } }: { input: ReportInput }) {
  const measure = job.question.measures.find((m) => isOfRoad(m.id));
  if (!measure || !job.roadPasses?.length) return null;
  const verdicts = judgement.verdicts.filter((v) => v.measure === measureName(measure));
  return (
    <section>
      <h2>
        On the road<span>dots: single passes; ticks: means; a closed course</span>
      </h2>
      {verdicts.map((v) => {
        const forecast = roadForecast(job, judgement, v.candidate, measure);
        const known = typeof forecast === 'string' ? null : forecast;
        const road = roadFigures(v);
        return (
          <div key={v.candidate}>
            <div dangerouslySetInnerHTML={{ __html: roadSvg(job, v, known, { width: 912, fontSize: 12 }) }} />
            <p className="small">
              {road && `On the road ${road.seconds}, ${road.percent}; mean acceleration ${road.g}. `}
              {known
                ? `By the rollers ${forecastFigures(known).percent}. ${v.gain ? agreementWords(agreementOf(v.gain, known, v.meaningful)) : ''} ${feltWords(known, tolerance(job.method, 'feltPercent'))} ${forecastBasis(known)}`
                : noForecastWords(forecast as Exclude<typeof forecast, object>)}
            </p>
          </div>
        );
      })}
    </section>
  );
}
