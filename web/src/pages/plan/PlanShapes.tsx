import { plain } from '@prandel/presentation';
import type { PlannedDay, PlanShape } from '@prandel/core';

const SAYS: Record<PlanShape, string> = {
  return: 'The first setup goes back on at the end, so that the day’s own drift shows.',
  middle: 'The first setup goes back on after each of the others: every one has its own return check.',
  twice: 'Two changes and two returns: more rounds find what more pulls cannot.',
  hold: 'Two rounds of each setup some 50 min apart; no refitting.',
  plain: 'The least: a wide interval, and the report says so.',
};

const up = (percent: number) => plain(Math.ceil(percent * 10 - 1e-9) / 10, 1);

/** The shapes of a day beside each other: what each costs in minutes, and what it sees and finds in per cent. */
export function PlanShapes({
  plans,
  chosen,
  usual,
  needed,
  matters,
  inPercent,
  frozen,
  onChoose,
}: {
  plans: readonly PlannedDay[];
  chosen: PlanShape;
  /** The shape that is usual for how long a fitting takes and whether it can be undone. */
  usual: PlanShape;
  needed: Readonly<Partial<Record<PlanShape, number | null>>>;
  matters: number;
  /** Whether the question is one of per cent: of a temperature nothing is reckoned beforehand. */
  inPercent: boolean;
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
          {inPercent && (
            <>
              <span className="text-ink-2">This plan will see from about</span>
              <span className="num -mt-1 text-[30px] leading-tight">
                {/* Rounded up: a plan is not said to see what it just misses. */}±{up(p.seesFromPercent)} %
              </span>
              <span className="text-ink-2">{up(p.findsPercent)} % found on 4 days of 5 if the bay is as usual</span>
            </>
          )}
          <span className="text-ink-2">
            {Math.floor(p.minutes / 60)} h {String(Math.round(p.minutes % 60)).padStart(2, '0')} min,{' '}
            {p.steps.map((s) => `${s.setup} ${s.settle}+${s.counted}`).join(', ')}
          </span>
          {inPercent && (
            <span className={p.findsPercent <= matters ? 'text-ok font-[620]' : 'text-wait font-[620]'}>
              {p.findsPercent <= matters
                ? `Enough for the ${plain(matters, 1)} % that would matter.`
                : needed[p.shape]
                  ? `${needed[p.shape]} counted pulls a setup would find ${plain(matters, 1)} %.`
                  : `No number of pulls up to 12 finds ${plain(matters, 1)} % this way: more rounds or a steadier bay would.`}
            </span>
          )}
        </label>
      ))}
    </fieldset>
  );
}
