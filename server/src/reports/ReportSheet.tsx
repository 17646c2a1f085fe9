import {
  dayTrackSvg,
  gainInterval,
  interval,
  nextStep,
  percentWords,
  plain,
  resultSentence,
  setupLooks,
  shown,
  signed,
  temperatureStep,
  VERDICT_LOOKS,
  VERDICT_SHAPES,
  verifiedRange,
  type ShownUnits,
} from '@prandel/charts';
import {
  CORRECTION_NAMES,
  fromSi,
  pullsInOrder,
  type Band,
  type CandidateVerdict,
  type Job,
  type JudgedPull,
  type Judgement,
  type Setup,
  type Verdict,
} from '@prandel/core';

/** Everything a report is made from. */
export interface ReportInput {
  readonly shop: string;
  readonly person: string;
  readonly job: Job;
  readonly judgement: Judgement;
  readonly units: ShownUnits;
  /** One chart per candidate, as SVG text. */
  readonly charts: readonly { readonly candidate: string; readonly svg: string }[];
  readonly digest: string;
  readonly printedAt: string;
}

export function ReportSheet(input: ReportInput) {
  const { job, judgement } = input;
  return (
    <main>
      <Head {...input} />
      <p className="lead">{job.question.text || job.title}</p>
      <div className="results">
        {judgement.verdicts.map((v) => (
          <Result key={v.candidate} v={v} input={input} />
        ))}
      </div>
      {input.charts.map(({ candidate, svg }) => (
        <section key={candidate}>
          <h2>
            Measured curves, {candidate} against {job.question.baselineSetup}
            <span>thick line: mean of the counted pulls; thin lines: single pulls; shading: 95 % band</span>
          </h2>
          <div dangerouslySetInnerHTML={{ __html: svg }} />
        </section>
      ))}
      <div className="cols">
        <section>
          <h2>
            By rpm band, {input.units.power}
            <span>all bands together at 95 %</span>
          </h2>
          <BandTable input={input} />
        </section>
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
      <section>
        <h2>
          How other ways of judging would call it<span>without an interval of their own</span>
        </h2>
        <Schools input={input} />
      </section>
      <section>
        <h2>
          Every pull, including those set aside
          <span>
            intake air at start, {input.units.temperature}; factor; mean over the window, {input.units.power}
          </span>
        </h2>
        <PullTables input={input} />
      </section>
      <Care input={input} />
    </main>
  );
}

function Head({ shop, person, job, printedAt }: ReportInput) {
  return (
    <header>
      <div>
        <h1>{shop}</h1>
        <div className="small mut">
          Wheel power report {job.id}
          {job.openedAt ? ` · ${day(job.openedAt, job.timeZone)}` : ''}
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
      </div>
      <div className="small">
        <div className="mut">Report by</div>
        <b>{person}</b>, {day(printedAt, job.timeZone)}
      </div>
    </header>
  );
}

function day(at: string, zone: string | null): string {
  return new Intl.DateTimeFormat('en-GB', {
    day: 'numeric',
    month: 'long',
    year: 'numeric',
    timeZone: zone ?? 'UTC',
  }).format(new Date(at));
}

function Badge({ setup, setups }: { setup: string; setups: readonly Setup[] }) {
  const look = setupLooks(setups).get(setup)!;
  return (
    <span
      className="badge"
      style={
        look.hollow
          ? { color: look.text, boxShadow: `inset 0 0 0 1.3px ${look.line}` }
          : { background: look.line, color: look.on }
      }
    >
      {setup}
    </span>
  );
}

function Shape({ verdict, word = false }: { verdict: Verdict; word?: boolean }) {
  const look = VERDICT_LOOKS[verdict];
  return (
    <span style={{ color: look.colour }}>
      <svg
        viewBox="0 0 16 16"
        role="img"
        aria-label={look.word}
        dangerouslySetInnerHTML={{ __html: VERDICT_SHAPES[look.key] }}
      />
      {word ? look.short : null}
    </span>
  );
}

function Result({ v, input: { job, judgement, units } }: { v: CandidateVerdict; input: ReportInput }) {
  const look = VERDICT_LOOKS[v.verdict];
  const g = v.gain && gainInterval(v.gain, units);
  return (
    <section className="result">
      <Badge setup={v.candidate} setups={job.setups} /> <b>{job.setups.find((s) => s.id === v.candidate)?.label}</b>
      <div className="figrow">
        <span className={`fig${v.verdict === 'not-comparable' ? ' struck' : ''}`}>{g ? g.estimate : '–'}</span>
        <span className="unit">{g?.unit}</span>
        <span className="verdict" style={{ color: look.colour }}>
          <Shape verdict={v.verdict} /> {look.word}
        </span>
      </div>
      <p>
        {resultSentence(job, v, units, judgement.window)} {verifiedRange(v)}
      </p>
      <p className="mut small">
        {percentWords(v)}. {v.verdict === 'verified-gain' || v.verdict === 'verified-loss' ? '' : v.reason}{' '}
        {nextStep(v)}
      </p>
    </section>
  );
}

function BandTable({ input: { job, judgement, units } }: { input: ReportInput }) {
  const { verdicts } = judgement;
  const rows = [...new Map(verdicts.flatMap((v) => v.bands).map((b) => [b.fromRpm, b])).values()];
  const cell = (v: CandidateVerdict, b: Band) => {
    const own = v.bands.find((x) => x.fromRpm === b.fromRpm);
    if (!own) return <td className="r">–</td>;
    const kw = (percent: number) => fromSi((own.baselineW * percent) / 100, units.power);
    const i = interval(kw(own.percent), kw(own.lowPercent), kw(own.highPercent));
    return (
      <td className="r">
        {i.estimate} ±{i.half} <Shape verdict={v.verdict === 'not-comparable' ? 'not-comparable' : own.verdict} />
      </td>
    );
  };
  const peak = (v: CandidateVerdict) =>
    v.peaks.candidate &&
    `${shown(v.peaks.candidate.power.value, units.power)} at ${Math.round(v.peaks.candidate.power.rpm)}`;
  const base = verdicts[0]?.peaks.baseline;
  return (
    <table>
      <thead>
        <tr>
          <th>rpm</th>
          <th className="r">{job.question.baselineSetup}</th>
          {verdicts.map((v) => (
            <th key={v.candidate} className="r">
              {v.candidate} {'\u2212'} {v.baseline}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((b) => (
          <tr key={b.fromRpm}>
            <td>
              {b.fromRpm}–{b.toRpm}
            </td>
            <td className="r">{shown(b.baselineW, units.power)}</td>
            {verdicts.map((v) => (
              <Keyed key={v.candidate}>{cell(v, b)}</Keyed>
            ))}
          </tr>
        ))}
        <tr>
          <td>peak of the mean</td>
          <td className="r">
            {base ? `${shown(base.power.value, units.power)} at ${Math.round(base.power.rpm)}` : '–'}
          </td>
          {verdicts.map((v) => (
            <td key={v.candidate} className="r">
              {peak(v) ?? '–'}
            </td>
          ))}
        </tr>
      </tbody>
    </table>
  );
}

function Keyed({ children }: { children: React.ReactNode }) {
  return <>{children}</>;
}

function ConditionsTable({ input: { job, judgement, units } }: { input: ReportInput }) {
  const v = judgement.verdicts[0];
  const value = (key: string, n: number | null) => {
    if (n === null) return '–';
    if (key === 'factor') return n.toFixed(4);
    if (key === 'rest') return `${n.toFixed(1)} min`;
    if (key === 'intakeStart') return `${signed(temperatureStep(n, units.temperature))} ${units.temperature}`;
    return `${shown(n, units.temperature)} ${units.temperature}`;
  };
  const states = [
    ...new Map(
      judgement.verdicts
        .flatMap((x) => x.conditions.state)
        .filter((s) => s.baseline !== null || s.candidate !== null)
        .map((s) => [s.key + s.candidate, s]),
    ).values(),
  ];
  return (
    <table>
      <tbody>
        {v?.conditions.rows
          .filter((r) => r.key !== 'drift')
          .map((r) => (
            <tr key={r.key}>
              <td>{r.label}</td>
              <td className="r">
                {value(r.key, r.baseline)} against {value(r.key, r.candidate)}
              </td>
            </tr>
          ))}
        {states.map((s) => (
          <tr key={s.key + String(s.candidate)}>
            <td>{s.label}</td>
            <td className="r">
              {s.status === 'same'
                ? s.baseline
                : `${s.baseline ?? 'not recorded'} against ${s.candidate ?? 'not recorded'}${s.status === 'declared' ? ' (declared)' : ''}`}
            </td>
          </tr>
        ))}
        <tr>
          <td>Return check</td>
          <td className="r">
            {v?.returnCheckPercent === null || v?.returnCheckPercent === undefined
              ? 'none was made'
              : `${signed(v.returnCheckPercent)} % against the first round`}
          </td>
        </tr>
        <tr>
          <td>Correction</td>
          <td className="r">{CORRECTION_NAMES[job.method.correction]}</td>
        </tr>
        <tr>
          <td>Averaging</td>
          <td className="r">{job.method.averagingWidthRpm === 0 ? 'none' : `${job.method.averagingWidthRpm} rpm`}</td>
        </tr>
        <tr>
          <td>Gain that would matter</td>
          <td className="r">{plain(job.question.meaningfulGainPercent, 1)} %</td>
        </tr>
      </tbody>
    </table>
  );
}

function Schools({ input: { judgement, units } }: { input: ReportInput }) {
  return (
    <table>
      <thead>
        <tr>
          <th>way of judging</th>
          {judgement.verdicts.map((v) => (
            <th key={v.candidate} className="r">
              {v.candidate}, {units.power}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {judgement.verdicts[0]?.schools.map((s, i) => (
          <tr key={s.id}>
            <td>{s.label}</td>
            {judgement.verdicts.map((v) => (
              <td key={v.candidate} className="r">
                {v.schools[i]?.valueW == null
                  ? 'needs more pulls'
                  : `${signed(fromSi(v.schools[i].valueW, units.power))} no ±`}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function PullTables({ input: { job, judgement, units } }: { input: ReportInput }) {
  const ordered = pullsInOrder(job.pulls);
  const judged = new Map(judgement.pulls.map((p) => [p.id, p]));
  const remarks = ordered.flatMap((p) => {
    const j = judged.get(p.id)!;
    const words = remark(j, p.reason);
    return words ? [{ name: j.name, words }] : [];
  });
  return (
    <>
      <div className="pulls">
        {job.setups.map((s) => (
          <table key={s.id}>
            <thead>
              <tr>
                <th>
                  <Badge setup={s.id} setups={job.setups} />
                </th>
                <th className="r">Time</th>
                <th className="r">Intake</th>
                <th className="r">Factor</th>
                <th className="r">Mean</th>
                <th>Use</th>
              </tr>
            </thead>
            <tbody>
              {ordered
                .filter((p) => p.setupId === s.id)
                .map((p, i) => {
                  const j = judged.get(p.id)!;
                  const use =
                    p.status === 'set-aside'
                      ? 'aside'
                      : p.status === 'settle'
                        ? 'settle'
                        : j.used
                          ? 'counted'
                          : 'left out';
                  return (
                    <tr key={p.id} className={use === 'aside' || use === 'left out' ? 'aside' : use}>
                      <td>{i + 1}</td>
                      <td className="r">{p.startedAt ? clock(p.startedAt, job.timeZone) : '–'}</td>
                      <td className="r">{shown(p.intakeStartC, units.temperature)}</td>
                      <td className="r">{j.factor?.toFixed(3) ?? '–'}</td>
                      <td className="r">{shown(j.windowMeanW, units.power)}</td>
                      <td>{use}</td>
                    </tr>
                  );
                })}
            </tbody>
          </table>
        ))}
      </div>
      {remarks.length > 0 && (
        <p className="small mut">
          {remarks.map((r) => (
            <span key={r.name}>
              <b>{r.name}</b>: {r.words}{' '}
            </span>
          ))}
        </p>
      )}
      <p className="small mut">Settle pulls never count; they bring car and rollers to a steady state.</p>
    </>
  );
}

function clock(at: string, zone: string | null): string {
  return new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', timeZone: zone ?? 'UTC' }).format(
    new Date(at),
  );
}

function remark(j: JudgedPull, reason: string | null): string {
  const own = j.status === 'set-aside' ? `set aside, ${reason ?? 'no reason given'}.` : '';
  const noticed = j.findings.filter((f) => f.severity !== 'info').map((f) => f.text);
  return [own, ...noticed].filter(Boolean).join(' ');
}

function Care({ input: { job, judgement, digest } }: { input: ReportInput }) {
  const findings = [
    ...new Map(judgement.verdicts.flatMap((v) => v.conditions.findings).map((f) => [f.text, f])).values(),
  ];
  const v = judgement.verdicts[0];
  return (
    <div className="note">
      <p>
        <b>Read with care.</b> Wheel power is not engine power and differs between dynos; torque is stated at the engine
        speed axis. A change is called verified only when its whole 95 % interval lies on one side of zero, never from
        the best single pull. The result holds for this car, fuel and day, at full throttle in the gear used.{' '}
        {v?.method}
      </p>
      {findings.length > 0 && (
        <p>
          <b>Conditions.</b> {findings.map((f) => f.text).join(' ')}
        </p>
      )}
      {judgement.contrasts.length > 0 && (
        <p>
          <b>Between the parts.</b>{' '}
          {judgement.contrasts.map((c) => {
            const i = interval(c.percent, c.lowPercent, c.highPercent);
            return `${c.label}: ${i.estimate} ±${i.half} %${c.tie ? ', a tie' : ''}. `;
          })}
        </p>
      )}
      {job.setups.some((s) => s.closedCourseOnly) && (
        <p>
          <b>Closed course only.</b> Removing or bypassing emission equipment can be unlawful on the road; see the local
          rules.
        </p>
      )}
      <p>
        <b>Safety.</b> Driver-assistance systems must be restored before the car leaves.
      </p>
      <p>
        Made with Prandel from {job.pulls.length} pulls. Digest of all inputs: <code>{digest}</code>
      </p>
    </div>
  );
}
