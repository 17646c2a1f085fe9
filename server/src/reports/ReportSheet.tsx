import {
  contrastWords,
  dayTrackSvg,
  gainInterval,
  longDay,
  nextStep,
  readFrom,
  resultSentence,
  returnCheckWords,
  shown,
  sureWords,
  unitOf,
  measureWords,
  verdictLook,
  verifiedRange,
  conditionWords,
  methodWords,
  verdictReasonWords,
  NOT_PROVEN,
  SEAL_RING,
} from '@prandel/presentation';
import { fingerprint } from '@prandel/formats';
import { factsNamed, isCurved, measureFacts, measureName, school, type CandidateVerdict } from '@prandel/core';
import { ReportAlsoSeen } from './ReportAlsoSeen.tsx';
import { ReportRoad } from './ReportRoad.tsx';
import { MOST_LARGE, ReportChosen, ReportShootout } from './ReportShootout.tsx';
import { ReportChannels } from './ReportChannels.tsx';
import { HowItCameAbout } from './HowItCameAbout.tsx';
import { HowItRan } from './HowItRan.tsx';
import type { ReportInput } from './reportInput.ts';
import { Badge, Shape } from './reportMarks.tsx';
import { BandTable, ConditionsTable, PullTables, ReadingTable, Schools } from './ReportTables.tsx';

export function ReportSheet(input: ReportInput) {
  const { job, judgement } = input;
  const schoolsFirst = school(job.method, 'whichPullsSpeak') === 'beside';
  const asked = job.question.measures.map(measureName);
  const log = asked.filter((m) => isCurved(factsNamed(m)));
  const additive = asked.filter((m) => !isCurved(factsNamed(m)) && readFrom(m) === 'pulls');
  const temperatures = additive.some((m) => factsNamed(m).quantity === 'temperature');
  const schools = judgement.verdicts.some((v) => v.schools.length > 0);
  return (
    <main>
      <Head {...input} />
      <p className="lead">{job.question.text || job.title}</p>
      {job.day?.claim && (
        <p className="small">
          <b>Claim under test:</b> {job.day.claim}
        </p>
      )}
      {job.question.candidateSetups.length <= MOST_LARGE && (
        <div className="results">
          {judgement.verdicts.map((v) => (
            <Result key={`${v.candidate} ${v.measure}`} v={v} input={input} />
          ))}
        </div>
      )}
      {job.question.candidateSetups.length > 1 && <ReportShootout input={input} />}
      {schools && schoolsFirst && <OtherWays input={input} />}
      {input.charts.map(({ candidate, measure, svg }) => (
        <section key={`${candidate} ${measure}`}>
          <h2>
            Measured curves, {candidate} against {job.question.baselineSetup}
            <span>thick line: mean of the counted pulls; thin lines: single pulls; shading: 95 % band</span>
          </h2>
          <div dangerouslySetInnerHTML={{ __html: svg }} />
        </section>
      ))}
      <References input={input} />
      <ReportChosen input={input} />
      <ReportChannels input={input} />
      <ReportRoad input={input} />
      <ReportAlsoSeen input={input} />
      <div className="cols">
        <div>
          {log.map((measure) => {
            const bands = judgement.verdicts.some((v) => v.measure === measure && v.bands.length > 0);
            return (
              <section key={measure}>
                <h2>
                  {bands ? `By rpm band, ${unitOf(measure, input.units)}` : 'Peaks of the means'}
                  {bands && <span>all bands together at 95 %</span>}
                </h2>
                <BandTable input={input} measure={measure} />
              </section>
            );
          })}
          {additive.length > 0 && (
            <section>
              <h2>
                Read from the counted pulls
                <span>{temperatures && judgement.airKnown ? 'temperatures above the bay’s air' : ''}</span>
              </h2>
              <ReadingTable input={input} measures={additive} />
            </section>
          )}
        </div>
        <section>
          <h2>Conditions and method</h2>
          <ConditionsTable input={input} />
        </section>
      </div>
      <section>
        <h2>
          Day track<span>filled: counted, hollow: settle, crossed: set aside, hatched: work on the car</span>
        </h2>
        <div dangerouslySetInnerHTML={{ __html: dayTrackSvg(job, judgement, 900, 12) }} />
      </section>
      <HowItCameAbout input={input} />
      {schools && !schoolsFirst && <OtherWays input={input} />}
      <HowItRan input={input} />
      <section>
        <h2>
          Every pull, including those set aside
          <span>
            intake air at start, {input.units.temperature}; factor; mean power over the window, {input.units.power}
          </span>
        </h2>
        <PullTables input={input} />
      </section>
      <SealLines input={input} />
      <Care input={input} />
    </main>
  );
}

/** The seal of the sheet: how to find out that nothing on it was changed, for somebody who does not trust the shop. */
function SealLines({ input: { seal, job } }: { input: ReportInput }) {
  if (!seal) return null;
  return (
    <section className="seal">
      <svg viewBox="0 0 32 32" width="44" height="44" aria-hidden="true">
        <path d={SEAL_RING} fill="none" stroke="#1E2429" strokeWidth="2.6" />
      </svg>
      <div>
        <h2>
          Sealed
          <span>
            on {longDay(seal.sealedAt, job.timeZone)} by {seal.by}
          </span>
        </h2>
        <p className="small">
          Key <code>{fingerprint(seal.publicKey)}</code>
        </p>
        <p className="small">
          Log ends with <code>{seal.head.slice(0, 16)}</code>. Check this report and its package, without us, at{' '}
          <code>{seal.checkAt}</code> or with <code>prandel verify</code>.
        </p>
        <p className="small mut">{NOT_PROVEN}</p>
      </div>
    </section>
  );
}

/** Curves of other jobs that lie grey under the pictures. */
function References({ input: { job } }: { input: ReportInput }) {
  const list = job.references ?? [];
  if (list.length === 0) return null;
  return (
    <p className="small mut">
      Grey, dashed, not compared:{' '}
      {list
        .map((r) => `${r.name}, ${r.at ? longDay(r.at, job.timeZone) : 'no date'}, ${r.bay || 'another bay'}`)
        .join('; ')}
      .
    </p>
  );
}

function OtherWays({ input }: { input: ReportInput }) {
  return (
    <section>
      <h2>
        How other ways of judging would call it<span>without an interval of their own</span>
      </h2>
      <Schools input={input} />
    </section>
  );
}

function Head({ shop, person, job, printedAt }: ReportInput) {
  return (
    <header>
      <div>
        <h1>{shop}</h1>
        <div className="small mut">
          {job.question.measures.every((m) => isCurved(measureFacts(m))) ? 'Wheel power report' : 'Report'} {job.id}
          {job.openedAt ? ` · ${longDay(job.openedAt, job.timeZone)}` : ''}
        </div>
      </div>
      <div className="grow" />
      <div className="small">
        <b>{job.vehicle.label || 'Vehicle not named'}</b>
        <div className="mut">
          {[
            job.vehicle.aspiration &&
              { natural: 'naturally aspirated', turbo: 'turbocharged', supercharged: 'supercharged' }[
                job.vehicle.aspiration
              ],
            job.vehicle.drivenWheels && `${job.vehicle.drivenWheels} driven`,
            job.bay.label,
          ]
            .filter(Boolean)
            .join(', ')}
        </div>
        {job.day?.customer && <div className="mut">For {job.day.customer}</div>}
      </div>
      <div className="small">
        <div className="mut">Report by</div>
        <b>{person}</b>, {longDay(printedAt, job.timeZone)}
      </div>
    </header>
  );
}

function Result({ v, input: { job, judgement, units } }: { v: CandidateVerdict; input: ReportInput }) {
  const look = verdictLook(v.verdict, v.measure);
  const g = v.gain && gainInterval(v.gain, units);
  return (
    <section className="result">
      <Badge setup={v.candidate} setups={job.setups} /> <b>{job.setups.find((s) => s.id === v.candidate)?.label}</b>
      {job.question.measures.length > 1 && <span className="mut"> · {measureWords(v.measure).name}</span>}
      <div className="figrow">
        <span className={`fig${v.verdict === 'not-comparable' ? ' struck' : ''}`}>{g ? g.estimate : '–'}</span>
        <span className="unit">{g?.unit}</span>
        <span className="verdict" style={{ color: look.colour }}>
          <Shape look={look} /> {look.word}
        </span>
      </div>
      <p>
        {resultSentence(job, v, units, judgement.window)} {verifiedRange(v)}
      </p>
      {isCurved(factsNamed(v.measure)) && school(job.method, 'peakOrCurve') === 'peak' && <p>{peakWords(v, units)}</p>}
      <p className="mut small">
        {sureWords(v, units)}.{' '}
        {v.verdict === 'verified-gain' || v.verdict === 'verified-loss'
          ? ''
          : verdictReasonWords(v, v.conditions.findings, units)}{' '}
        {nextStep(v)}
      </p>
    </section>
  );
}

/** The peak, where a house wants it beside the result: two numbers without an interval of their own. */
function peakWords({ peaks, baseline }: CandidateVerdict, units: ReportInput['units']): string {
  if (!peaks.baseline || !peaks.candidate) return '';
  const at = ({ power }: { power: { value: number; rpm: number } }) =>
    `${shown(power.value, units.power)} ${units.power} at ${Math.round(power.rpm)} rpm`;
  return `Peak of the mean: ${at(peaks.candidate)} against ${at(peaks.baseline)} with ${baseline}; single points, no ±.`;
}

function Care({ input: { job, judgement, units, digest } }: { input: ReportInput }) {
  const findings = new Set(
    judgement.verdicts.flatMap((v) => v.conditions.findings.map((f) => conditionWords(f, v, units))),
  );
  const v = judgement.verdicts[0];
  const power = job.question.measures.some((m) => isCurved(measureFacts(m)));
  return (
    <div className="note">
      <p>
        <b>Read with care.</b>{' '}
        {power &&
          'Wheel power is not engine power and differs between dynos; torque is stated at the engine speed axis. '}
        A change is called verified only when its whole 95 % interval lies on one side of zero, never from the best
        single pull. The result holds for this car, fuel and day, at full throttle in the gear used.{' '}
        {judgement.verdicts
          .filter((own) => own.candidate === v?.candidate)
          .map((own) => methodWords(own.method))
          .join(' ')}
      </p>
      {findings.size > 0 && (
        <p>
          <b>Conditions.</b> {[...findings].join(' ')}
        </p>
      )}
      {judgement.contrasts.length > 0 && (
        <p>
          <b>Between the parts.</b> {judgement.contrasts.map((c) => `${contrastWords(c, units)} `)}
        </p>
      )}
      {job.setups.some((s) => s.closedCourseOnly) && (
        <p>
          <b>Closed course only.</b> Removing or bypassing emission equipment can be unlawful on the road; see the local
          rules.
        </p>
      )}
      {job.day?.cannotBeUndone && (
        <p>
          <b>No return check was possible.</b> {job.day.cannotBeUndone}
        </p>
      )}
      {job.question.plan.length > 0 && v?.returnCheck === null && !job.day?.cannotBeUndone && (
        <p>
          <b>{returnCheckWords(job, v, units)}</b> The day's own drift is covered by a wider interval.
        </p>
      )}
      <p>
        <b>Safety.</b> Driver-assistance systems must be restored before the car leaves.
      </p>
      <p>
        Made with Prandel from {job.pulls.length} pulls
        {job.roadPasses?.length ? ` and ${job.roadPasses.length} passes on the road` : ''}. Digest of all inputs:{' '}
        <code>{digest}</code>
      </p>
    </div>
  );
}
