import { controlChartSvg, plain, repeatabilitySvg, returnChecksSvg, shortDay } from '@prandel/presentation';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';
import { ask, type BayCharts } from '../../api/client.ts';
import { Notice } from '../../parts/Field.tsx';
import { KnownBay } from './KnownBay.tsx';
import { ReferenceRound } from './ReferenceRound.tsx';
import { SecondReading } from './SecondReading.tsx';
import { SignalAnswerForm } from './SignalAnswerForm.tsx';

const WIDTH = 1200;
const HALF = 590;

const ANSWERS = {
  calibration: 'calibration changed',
  sensor: 'sensor replaced',
  tyre: 'tyre or its pressure',
  nothing: 'looked, nothing found',
} as const;

/** The bay held against itself: does it still read what it read? */
export function BayChartsPage() {
  const { bay = '' } = useParams();
  const charts = useQuery({
    queryKey: ['bay-charts', bay],
    queryFn: () => ask('get', '/api/bays/{id}/charts', { params: { path: { id: bay } } }),
  });
  if (charts.error)
    return (
      <div className="p-6">
        <Notice kind="bad">{charts.error.message}</Notice>
      </div>
    );
  if (!charts.data) return <div className="progress" role="progressbar" aria-label="Loading the charts" />;
  const { label, repeatability, months, returns, references, second, answers, elevationM } = charts.data;
  return (
    <div className="mx-auto grid max-w-[1280px] gap-3 p-4">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="grow">{label} against itself</h1>
        <ReferenceRound label={label} car={references[0]?.car ?? null} />
        <Link className="btn" to="/bays">
          Bays
        </Link>
      </div>
      {references.map(({ car, stretches }) => (
        <section key={car} className="sheet card grid gap-2" aria-label={`Reference car ${car}`}>
          <div className="flex flex-wrap items-baseline gap-3">
            <h2>Reference car</h2>
            <span className="text-ink-2">{car}: mean power of a short round, per cent of its own mean</span>
          </div>
          {stretches.some((s) => s.open.length > 0) && <SignalAnswerForm bay={bay} chart="reference" />}
          <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Chart of the reference car">
            <div
              dangerouslySetInnerHTML={{
                __html: controlChartSvg(stretches, { width: WIDTH, height: 230, unit: '%', digits: 2 }),
              }}
            />
          </div>
          <Limits stretches={stretches} unit="%" />
        </section>
      ))}
      {references.length === 0 && (
        <section className="sheet card">
          <h2>Reference car</h2>
          <p>
            No car is kept as a reference yet. Mark the shop’s own car as one{' '}
            <Link className="underline" to="/records/vehicle">
              in its record
            </Link>
            , never change it, and pull a short round of it once a month: drift of the bay then shows itself here.
          </p>
        </section>
      )}
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <section className="sheet card grid gap-2" aria-label="Repeatability">
          <h2>Pull to pull</h2>
          {repeatability ? (
            <p>
              Two pulls in a row differ by less than <b>{plain(repeatability.limit, 1)} %</b> on 19 of 20 days.{' '}
              <span className="text-ink-2">
                r = 2.8 · s, s = {plain(repeatability.sd, 2)} % over the last {repeatability.jobs} jobs (ISO 5725-2)
              </span>
            </p>
          ) : (
            <p className="text-ink-2">Shown from the first finished job on.</p>
          )}
          {months.length > 0 && (
            <div dangerouslySetInnerHTML={{ __html: fluid(repeatabilitySvg(months, { width: HALF, height: 180 })) }} />
          )}
        </section>
        <section className="sheet card grid gap-2" aria-label="Return checks">
          <h2>Back to the first setup</h2>
          {returns.points.length > 0 ? (
            <p>
              {returns.points.length} return checks
              {returns.limit !== null && (
                <>
                  ; 19 of 20 come back to within <b>±{plain(returns.limit, 1)} %</b>
                </>
              )}
              .
            </p>
          ) : (
            <p className="text-ink-2">No return check was made in this bay yet.</p>
          )}
          {returns.points.length > 0 && (
            <div
              dangerouslySetInnerHTML={{
                __html: fluid(returnChecksSvg(returns.points, returns.limit, { width: HALF, height: 180 })),
              }}
            />
          )}
        </section>
      </div>
      <section className="sheet card grid gap-2" aria-label="Second instrument">
        <div className="flex flex-wrap items-baseline gap-3">
          <h2>Weather station against a second instrument</h2>
          <span className="text-ink-2">difference of pressure, hPa</span>
        </div>
        {second.some((s) => s.open.length > 0) && <SignalAnswerForm bay={bay} chart="second" />}
        {second.length > 0 ? (
          <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Chart of the second instrument">
            <div
              dangerouslySetInnerHTML={{
                __html: controlChartSvg(second, { width: WIDTH, height: 190, unit: 'hPa', digits: 1 }),
              }}
            />
          </div>
        ) : (
          <p className="text-ink-2">
            Nothing was held against the station yet. A wrong pressure moves every corrected figure: 10 hPa are one per
            cent.
          </p>
        )}
        {second.length > 0 && <Limits stretches={second} unit="hPa" />}
        <SecondReading bay={bay} elevationM={elevationM} />
      </section>
      <KnownBay bay={bay} label={label} />
      {answers.length > 0 && <Answers answers={answers} />}
    </div>
  );
}

/** A picture as wide as its place. */
const fluid = (svg: string) => svg.replace(/^<svg ([^>]*?)width="\d+" height="\d+"/, '<svg $1width="100%"');

function Limits({ stretches, unit }: { stretches: BayCharts['second']; unit: string }) {
  const last = stretches.at(-1);
  if (!last) return null;
  const { limits, needed } = last.chart;
  return (
    <p className="text-ink-2">
      {limits
        ? `Limits ±${plain(limits.high - limits.mean, 2)} ${unit} from the first ${Math.min(10, last.points.length)} readings since then: mean ± 2.66 mean moving ranges.`
        : `${last.points.length} ${last.points.length === 1 ? 'reading' : 'readings'} since ${last.epoch ? `the calibration of ${last.epoch}` : 'the chart began'}; ${needed} more until there are limits.`}
    </p>
  );
}

function Answers({ answers }: { answers: BayCharts['answers'] }) {
  return (
    <section className="sheet card" aria-label="Answered signals">
      <h2>Answered signals</h2>
      <ul className="mt-1 grid gap-1">
        {answers.map((a) => (
          <li key={`${a.chart} ${a.at}`}>
            {shortDay(a.at, null)} {new Date(a.at).getFullYear()}, {a.who}: <b>{ANSWERS[a.answer]}</b>
            {a.words && <span className="text-ink-2">. {a.words}</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}
