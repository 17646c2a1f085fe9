import type {
  CandidateVerdict,
  ConditionFinding,
  MethodUsed,
  NotUsed,
  OutsideValidity,
  PullFinding,
  Stretch,
  WithoutPower,
} from '@prandel/core';
import {
  channelWords,
  CONDITION_LABELS,
  CORRECTION_NAMES,
  factsNamed,
  isCurved,
  measureNamed,
  STATE_LABELS,
} from '@prandel/core';
import { plain, temperatureStep, USUAL_UNITS, type ShownUnits, shown } from './figures.ts';

const WITHOUT_POWER: Readonly<Record<WithoutPower | 'no-usable-curve', string>> = {
  'no-engine-speed': 'No engine speed: the file has no rpm column and no ratio between engine and roller is known.',
  'no-time': 'Roller speed without time: power cannot be computed.',
  'no-inertia': 'Roller speed, but the bay has no roller inertia: enter it to compute power.',
  'nothing-recorded': 'Neither power, torque nor roller speed was recorded.',
  'no-usable-curve': 'No usable curve, so the pull cannot count.',
};

const OUTSIDE: Readonly<Record<OutsideValidity['quantity'], string>> = {
  factor: 'factor',
  air: 'air',
  dryPressure: 'dry pressure',
};

/** "air outside 15–35 °C" */
export function outsideWords({ quantity, low, high, unit }: OutsideValidity): string {
  return `${OUTSIDE[quantity]} outside ${low}–${high}${unit && ` ${unit}`}`;
}

/** What was found on a pull, as a sentence. */
export function pullFindingWords(f: PullFinding): string {
  const range = `${Math.round(f.fromRpm ?? NaN)}–${Math.round(f.toRpm ?? NaN)} rpm`;
  const at = Math.round(f.fromRpm ?? NaN);
  switch (f.code) {
    case 'rpm-dropout': {
      const { samples } = f.parameters;
      return `The rpm signal dropped out in ${samples} ${samples === 1 ? 'sample' : 'samples'}: check the pickup and its ground.`;
    }
    case 'shift':
      switch (f.parameters.sign) {
        case 'ratio-steps':
          return `The ratio between engine and roller steps at ${at} rpm: a shift or downshift. The window keeps the longer side.`;
        case 'torque-climbs':
          return `Torque jumps up at ${at} rpm, as at a gear change. The window ends before it.`;
        default:
          return `Torque leaves its course at ${range}, as at a lift, the limiter or a gear change. The window ends before it.`;
      }
    case 'slip':
      return `The engine runs up to ${plain(f.parameters.percent, 1)} % ahead of the roller from ${at} to ${Math.round(f.toRpm ?? NaN)} rpm: tyre or clutch slip.`;
    case 'spike':
      return `Torque jumps off its course at ${range}: a gear change or a bad pickup. The stretch is bridged.`;
    case 'feature':
      return `Torque jumps near ${at} rpm in every pull of this setup: a feature of the setup, left as it is.`;
    case 'lift':
      return `Full load had not settled at ${range}. The window starts after it.`;
    case 'cut-short':
      return `Cut short: covers ${plain(f.parameters.coveredPercent, 0)} % of the window ${f.parameters.windowRpm.join('–')} rpm, so it does not count.`;
    case 'peak-not-reached':
      return `Power was still at its highest at the edge of the window, ${at} rpm: the peak was not reached.`;
    case 'no-power':
      return WITHOUT_POWER[f.parameters.why];
    case 'no-loss-data':
      return 'The bay has no coast-down of its empty rollers: their own loss is taken as zero.';
    case 'numbers-disagree':
      return 'Power and torque in the file do not belong to the same engine speed; power was taken.';
    case 'implausible':
      return 'Power or torque is beyond any road vehicle: look at the unit of the column.';
    case 'partial-dip':
      return `Odd one out: a dip of ${plain(f.parameters.percent, 1)} % near ${f.parameters.atRpm} rpm that the other pulls of the setup do not have.`;
    case 'unlike-the-others': {
      const { likelyPercent, repeat } = f.parameters;
      const likely = likelyPercent > 99 ? 'over 99' : plain(likelyPercent, 0);
      return `The day reads as if this pull were not like the others: ${likely} %. It stays in, weighed down.${repeat ? ' Repeat it while the setup is still on the car.' : ''}`;
    }
    case 'no-weather':
      return 'No weather for this pull while the others are corrected: left out.';
    case 'outside-validity':
      return `Outside the correction standard’s stated validity: ${f.parameters.quantities.map(outsideWords).join(', ')}.`;
    case 'hunting':
      return `Boost falls by ${plain(f.parameters.percent, 0)} % near ${at} rpm and climbs again: its control is hunting. Make another settle pull.`;
    case 'throttle-closes':
      return `The throttle closed by ${plain(f.parameters.percent, 0)} % near ${at} rpm and opened again: the controller took torque away.`;
    case 'long-pause':
      return `${plain(f.parameters.minutes, 0)} min went by before this pull, about ${plain(f.parameters.usualMinutes, 0)} before its peers: a longer pause cools it.`;
    case 'first-after-change':
      return 'The first pull after a change on a boosted car, and it counts: the boost control may still be hunting.';
    case 'hole':
      return f.parameters.where === 'stretch'
        ? 'No usable samples over more than 250 rpm inside the pull: that stretch stays empty.'
        : 'The mean over the window is not a positive number; the pull is left out.';
    case 'unsteady-before':
      return 'Engine speed moved by more than 3 % in the half second before the pedal: the answer begins from another place than the others.';
    case 'no-throttle-step':
      return 'No throttle and no torque steps up in this roll-on: there is nothing to time.';
    case 'repeated-samples':
      return `The same samples as ${f.parameters.twin}: one pull under two names, counted once.`;
    default:
      return f satisfies never;
  }
}

/** Why a pull does not enter the fit. */
export function notUsedWords(why: NotUsed): string {
  switch (why.code) {
    case 'settle':
      return 'Settle pull: brings car and rollers to a steady state.';
    case 'set-aside':
      return `Set aside: ${why.reason ?? 'no reason given'}.`;
    case 'other-kind':
      return 'another kind of pull than the question is asked of';
    case 'outside-question':
      return 'Its setup is not part of the question.';
    case 'finding':
      return pullFindingWords(why.finding);
    default:
      return why satisfies never;
  }
}

type Pair = Pick<CandidateVerdict, 'baseline' | 'candidate'> & Partial<Pick<CandidateVerdict, 'measure'>>;

/** What was noticed about a pair of setups, as a sentence. @param pair their keys, by which the sentence calls them */
export function conditionWords(f: ConditionFinding, pair: Pair, units: ShownUnits = USUAL_UNITS): string {
  const degrees = (c: number, digits = 1) =>
    `${plain(temperatureStep(c, units.temperature), digits)} ${units.temperature}`;
  switch (f.code) {
    case 'condition-differs': {
      const { condition, difference, unit, blockingAt } = f.parameters;
      const size = (v: number, digits: number) => (unit === '°C' ? degrees(v, digits) : `${plain(v, digits)} %`);
      const beyond =
        blockingAt === null
          ? ''
          : `; beyond ${size(blockingAt, Number.isInteger(blockingAt) && units.temperature === '°C' ? 0 : 1)} the pair is not comparable`;
      return `${CONDITION_LABELS[condition]} differs by ${size(Math.abs(difference), 1)}${f.severity === 'blocking' ? beyond : ''}.`;
    }
    case 'drifted-too-far':
      return `The return check differs from the first round by ${plain(f.parameters.percent, 1)} %; beyond 2 % the day itself moved too far.`;
    case 'state-differs': {
      const { state, baseline, candidate } = f.parameters;
      return `${STATE_LABELS[state]} differs (${baseline} against ${candidate}) and is not a declared change.`;
    }
    case 'state-on-one-side':
      return `${STATE_LABELS[f.parameters.state]} was recorded on one side only.`;
    case 'window':
      return `The pulls share only ${plain(f.parameters.sharedPercent, 0)} % of the declared window.`;
    case 'place-crossed':
      return `${placesWords(pair, f.parameters)}: the change and the place in the round cannot be told apart.`;
    case 'places-differ':
      return `${placesWords(pair, f.parameters)}; ${pair.measure === undefined || isCurved(factsNamed(pair.measure)) ? 'start temperature is allowed for, whatever else a place brings is not' : 'what a place brings is not allowed for'}.`;
    case 'rise': {
      const { baselineC, candidateC } = f.parameters;
      return `Intake air climbs by ${degrees(candidateC)} from pull to pull on ${pair.candidate} and by ${degrees(baselineC)} on ${pair.baseline}: was the fan on, and in the same place?`;
    }
    case 'night':
      return `${pair.candidate} and ${pair.baseline} were run on different days, and no setup was run on both: nothing is compared across a night without one.`;
    case 'not-read': {
      const { pulls, of } = f.parameters;
      return `${pulls.length} of ${of} pulls do not read on this measure and are left out of it: ${pulls.join(', ')}.`;
    }
    case 'target-not-reached': {
      const { pulls, recordedS, targetNm } = f.parameters;
      if (targetNm === null) return 'There is no target yet: the baseline has no roll-on that sets it.';
      const torque = `${shown(targetNm, units.torque)} ${units.torque}`;
      return `${pulls.join(', ')} did not reach ${torque} in ${plain(recordedS, 1)} s: that side has no time, since the slowest would be missing from it.`;
    }
    case 'direction-alone': {
      const { passes, directions } = f.parameters;
      return `${passes.join(', ')} went ${directions.join(', ')}, where ${pair.baseline} was never driven: they compare with nothing and are left out.`;
    }
    case 'one-direction':
      return `All passes went ${f.parameters.direction}: wind and slope of that way are in both setups alike only if they held still.`;
    case 'few-passes':
      return `A setup has fewer than ${f.parameters.needed} passes in a direction: one odd pass cannot be told from the others.`;
    case 'channel-constant':
      return `${channelWords(f.parameters.channel).label} never changes in ${f.parameters.pulls.join(', ')}: the sensor, its plug or its channel is dead.`;
    case 'channel-implausible': {
      const { label, unit, digits } = channelWords(f.parameters.channel);
      return `${label} reads ${plain(f.parameters.value, digits)} ${unit}: no sensor of a car does; its unit or its wiring is wrong.`;
    }
    case 'channel-coarse': {
      const { label, unit } = channelWords(f.parameters.channel);
      return `${label} steps in ${plain(f.parameters.step, f.parameters.step % 1 === 0 ? 0 : 1)} ${unit}: a difference of about that size cannot be told.`;
    }
    case 'no-window':
      return `No window was declared: ${f.parameters.takenRpm.join('–')} rpm, what the pulls usually cover, was taken.`;
    case 'drift-not-known':
      return `Drift of this bay not known: ${f.parameters.known} of ${f.parameters.needed} return checks are in.`;
    case 'unlike-this-bay':
      return `Today is unlike this bay (${plain(f.parameters.percent, 0)} %): look for what is different, the straps, the fan, a sensor.`;
    case 'peak-hides-loss':
      return `${peakReads(f.parameters.percent)}, but power was lost from ${stretchWords(f.parameters.lostRpm)} rpm: the peak is not where the car is driven.`;
    case 'gain-beside-peak':
      return `${peakReads(f.parameters.percent)}, so a comparison of peaks would miss this gain: it lies elsewhere in the range.`;
    default:
      return PLAIN_CONDITIONS[f.code];
  }
}

type PlainCode = Exclude<
  Extract<ConditionFinding, { readonly parameters: Readonly<Record<string, never>> }>['code'],
  'night'
>;

/** Findings on a pair that need no parameter. */
const PLAIN_CONDITIONS: Readonly<Record<PlainCode, string>> = {
  'weather-one-side': 'The weather is known on one side only, so the two cannot be corrected alike.',
  'no-weather': 'No pressure and air temperature were recorded: the numbers are not weather-corrected.',
  'unknown-numbers': 'Nobody knows whether these numbers were already corrected: they are compared as they are.',
  'unknown-one-side': 'Some numbers may already be corrected or scaled and others are known: they cannot be compared.',
  'settle-one-side': 'One side has settle pulls and the other none.',
  'settle-counts': 'The sides have different numbers of settle pulls a round.',
  'no-times': 'Start times are missing: pulls are taken 5 min apart in order, rounds 90 min apart.',
  'no-start-temperature': 'Start temperatures are missing, so heat is not adjusted for and the interval is wider.',
  'meant-to-cool': 'The part is meant to change the intake air: its cooling is part of the gain.',
  'absolute-start': 'The bay’s air was not recorded: start temperatures are taken as they stand.',
  humidity: 'Humidity was not measured: 50 % was taken.',
  'no-loss': 'The rollers’ own loss is not known and taken as zero.',
  'no-return': 'No return check: what the day itself did cannot be told apart, so the interval is wide.',
  'undeclared-extension': 'Pulls were added after the result was seen: false claims are more likely than stated.',
  'cut-short': 'Pulls that were cut short were left out.',
  'outside-validity': 'The air was outside the correction standard’s stated validity.',
  'no-engine-data':
    'ISO 1585 for compression ignition needs fuel per cycle and boost ratio: the numbers are not corrected.',
  'closed-course': 'Closed course only: this change can be unlawful on the road; check the local rules.',
};

function placesWords(
  { baseline, candidate }: Pair,
  places: { readonly baselinePlaces: readonly number[]; readonly candidatePlaces: readonly number[] },
): string {
  const words = (list: readonly number[]) => `${list.length === 1 ? 'place' : 'places'} ${list.join(', ')}`;
  return `${candidate} was counted at ${words(places.candidatePlaces)} of its round, ${baseline} at ${words(places.baselinePlaces)}`;
}

function peakReads(percent: number): string {
  return `The peak reads ${plain(Math.abs(percent), 1)} % ${percent < 0 ? 'lower' : 'higher'}`;
}

/** "3000 to 4000 and 5000 to 5500" */
function stretchWords(stretches: readonly Stretch[]): string {
  return stretches.map(([from, to]) => `${from} to ${to}`).join(' and ');
}

/** Which rule decided the verdict, as sentences. @param findings those of the pair; the blocking ones are a reason */
export function verdictReasonWords(
  v: Pair & Pick<CandidateVerdict, 'reason' | 'measure'>,
  findings: readonly ConditionFinding[],
  units: ShownUnits = USUAL_UNITS,
): string {
  switch (v.reason) {
    case 'conditions':
      return findings
        .filter((f) => f.severity === 'blocking')
        .map((f) => conditionWords(f, v, units))
        .join(' ');
    case 'too-few-pulls':
      return measureNamed(v.measure)?.id === 'fade'
        ? 'A fade takes at least three counted pulls back to back in a round of each setup.'
        : factsNamed(v.measure).quantity === 'time'
          ? 'Fewer than two counted roll-ons on a side, or one of a side that never got there.'
          : factsNamed(v.measure).quantity === 'roadTime'
            ? 'Fewer than two passes of a setup on the road.'
            : 'Fewer than two counted pulls on a side.';
    case 'scatter':
      return factsNamed(v.measure).scale === 'log'
        ? 'The pulls scatter by more than 3 %: nothing can be read from them.'
        : 'The readings scatter so widely that nothing can be read from them.';
    case 'correction-decides':
      return 'Corrected and uncorrected power give different verdicts; the weaker one holds.';
    case 'one-side-of-zero':
      return 'The whole interval lies on one side of zero.';
    case 'inside-what-matters':
      return 'The 90 % interval lies inside what would matter.';
    case 'open':
      return 'The interval contains zero and reaches beyond what would matter.';
    default:
      return v.reason satisfies never;
  }
}

const HEAT: Readonly<Record<MethodUsed['heat'], string>> = {
  adjusted: 'adjusted for start temperature above the bay’s air',
  'meant-to-change': 'start temperature left in, as the part is meant to change it',
  missing: 'start temperature not known',
};

/** How an estimate was made, in one line. */
export function methodWords({
  pulls,
  confidence,
  quantity,
  heat,
  correction,
  averagingRpm,
  targetNm,
}: MethodUsed): string {
  const interval = `${plain(confidence * 100, 0)} % interval.`;
  if (quantity === 'roadTime')
    return `Modelled mean of ${pulls} passes, each direction with a level of its own, with an allowance for drift; ${interval}`;
  if (quantity !== 'power' && quantity !== 'torque')
    return `Modelled mean of ${pulls} counted pulls with allowances for drift and rounds;${targetNm === null ? '' : ` target ${plain(targetNm, 1)} N·m;`} ${interval}`;
  const corrected = correction ? CORRECTION_NAMES[correction] : 'not weather-corrected';
  const averaging = averagingRpm === 0 ? 'none' : `${averagingRpm} rpm`;
  return `Modelled mean of ${pulls} counted pulls with allowances for heat, drift and rounds; ${HEAT[heat]}; ${corrected}; averaging ${averaging}; ${interval}`;
}
