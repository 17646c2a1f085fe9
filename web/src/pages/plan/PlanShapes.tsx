import { differenceIn, measureWords, plain, withUnit, type ShownUnits } from '@prandel/presentation';
import { factsNamed, type PlannedDay, type PlanSees, type PlanShape } from '@prandel/core';

const SAYS: Record<PlanShape, string> = {
  return: 'The first setup goes back on at the end, so that the day’s own drift shows.',
  middle: 'The first setup goes back on half-way and at the end: the worst error falls by a third for one more round.',
  second: 'The first setup goes back on after every second of the others: it finds most and takes longest.',
  own: 'The rounds as they stand below.',
  twice: 'Two changes and two returns: more rounds find what more pulls cannot.',
  hold: 'Two rounds of each setup some 50 min apart; no refitting.',
  plain: 'The least: a wide interval, and the report says so.',
};

/** Minutes without the nights. */
const worked = (p: PlannedDay) => p.blocks.reduce((sum, b) => sum + (b.kind === 'night' ? 0 : b.toMin - b.fromMin), 0);

const up = (percent: number) => plain(Math.ceil(percent * 10 - 1e-9) / 10, 1);

/** Rounded up: a plan is not said to see what it just misses. */
function seesWords({ measure, from }: PlanSees, units: ShownUnits): string {
  const { scale, unit } = factsNamed(measure);
  const read = differenceIn(scale === 'log' ? '%' : unit, units);
  const tens = 10 ** read.digits;
  return `±${withUnit(plain(Math.ceil(read.to(from) * tens - 1e-9) / tens, read.digits), read.unit)}`;
}

/** The shapes of a day beside each other: what each costs in minutes, and what it sees and finds in per cent. */
export function PlanShapes({
  plans,
  chosen,
  usual,
  needed,
  matters,
  factor,
  inPercent,
  sees,
  units,
  frozen,
  onChoose,
}: {
  plans: readonly PlannedDay[];
  chosen: PlanShape;
  /** The shape that is usual for how long a fitting takes and whether it can be undone. */
  usual: PlanShape;
  needed: Readonly<Partial<Record<PlanShape, number | null>>>;
  /** In the scale of mean power; `factor` times as much of the measure that it stands for. */
  matters: number;
  factor: number;
  /** Whether something is asked of which there is a per cent; what it takes to find it is reckoned of that. */
  inPercent: boolean;
  /** What a plan sees of each measure, in the order of the question. */
  sees: (plan: PlannedDay) => readonly PlanSees[];
  units: ShownUnits;
  frozen: boolean;
  onChoose: (shape: PlanShape) => void;
}) {
  return (
    <fieldset className={`grid gap-3 sm:grid-cols-2 ${plans.length > 3 ? 'lg:grid-cols-4' : 'md:grid-cols-3'}`}>
      <legend className="sr-only">Shape of the day</legend>
      {plans.map((p) => (
        <label
          key={p.shape}
          className={`sheet card grid cursor-pointer content-start gap-1 ${p.shape === chosen ? 'outline-2 outline-ink' : ''}`}
          data-shape={p.shape}
        >
          <span className="flex items-center gap-2 text-[14px] font-[650]">
            <input
              type="radio"
              name="shape"
              checked={p.shape === chosen}
              disabled={frozen}
              onChange={() => onChoose(p.shape)}
            />
            <span className="grow">{p.label}</span>
            {p.shape === usual && <span className="text-ink-3 text-[12px] font-[450]">usual here</span>}
          </span>
          <span className="text-ink-2">{SAYS[p.shape]}</span>
          <span className="text-ink-2">This plan will see from about</span>
          {sees(p).map((own, i) => (
            <span key={own.measure} className="flex flex-wrap items-baseline gap-x-2">
              <span className={i === 0 ? 'num text-[30px] leading-tight' : 'text-[14px] font-[620]'}>
                {seesWords(own, units)}
              </span>
              {sees(p).length > 1 && <span className="text-ink-2 text-[12.5px]">{measureWords(own.measure).name}</span>}
            </span>
          ))}
          {inPercent && (
            <span className="text-ink-2">
              {up(factor * p.findsPercent)} % found on 4 days of 5 if the bay is as usual
            </span>
          )}
          {p.pairsFromPercent !== null && inPercent && (
            <span className="text-ink-2">
              any two of them told apart from about ±{up(factor * p.pairsFromPercent)} %
            </span>
          )}
          <span className="text-ink-2">
            {p.days > 1 ? `${p.days} days, ` : ''}
            {Math.floor(worked(p) / 60)} h {String(Math.round(worked(p) % 60)).padStart(2, '0')} min,{' '}
            {p.steps.map((s) => `${s.setup} ${s.settle}+${s.counted}`).join(', ')}
          </span>
          {inPercent && (
            <span className={p.findsPercent <= matters ? 'text-ok font-[620]' : 'text-wait font-[620]'}>
              {p.findsPercent <= matters
                ? `Enough for the ${plain(factor * matters, 1)} % that would matter.`
                : needed[p.shape]
                  ? `${needed[p.shape]} counted pulls a setup would find ${plain(factor * matters, 1)} %.`
                  : plans.length > 0 && p.pairsFromPercent !== null && !(p.shape in needed && needed[p.shape])
                    ? `Not enough for the ${plain(factor * matters, 1)} % that would matter: one more baseline between the parts finds more than more pulls.`
                    : `No number of pulls up to 12 finds ${plain(factor * matters, 1)} % this way: more rounds or a steadier bay would.`}
            </span>
          )}
        </label>
      ))}
    </fieldset>
  );
}
