import {
  factsNamed,
  type CostGap,
  type CostSource,
  type Crossed,
  type Job,
  type SetupCost,
  type Standing,
  type Standings,
  type Unranked,
} from '@prandel/core';
import { differenceInterval, gainInterval, plain, withUnit, type ShownUnits } from '../figures.ts';
import { verdictLook } from '../measureWords.ts';
import { nextStep } from '../sentences.ts';

/** "B", "B or C", "B, C or D". */
export function either(names: readonly string[]): string {
  if (names.length < 2) return names[0] ?? '';
  return `${names.slice(0, -1).join(', ')} or ${names.at(-1)}`;
}

const nameOf = (job: Job, id: string) => `${id} (${job.setups.find((s) => s.id === id)?.label ?? id})`;

/** Power and torque are gained; of any other measure a part does more or less. */
function verbOf({ ranked, unranked }: Standings): { readonly one: 'gains' | 'does'; readonly many: 'gain' | 'do' } {
  const measure = [...ranked, ...unranked][0]?.verdict.measure;
  const quantity = measure && factsNamed(measure).quantity;
  return quantity === undefined || quantity === 'power' || quantity === 'torque'
    ? { one: 'gains', many: 'gain' }
    : { one: 'does', many: 'do' };
}

/** Who is first, without saying "best" of a tie. */
export function firstWords(job: Job, list: Standings): string {
  const { ranked, first } = list;
  const { one, many } = verbOf(list);
  if (ranked.length === 0) return `No part is verified to ${many} anything: there is nothing to rank yet.`;
  if (first.length === 1) return `${nameOf(job, first[0]!)} ${one} most, surely.`;
  if (first.length === 0)
    return `${nameOf(job, ranked[0]!.setup)} is the first of those that are verified; one that is not may ${many} more.`;
  return `${either(first)}: this day cannot tell which of them ${one} most.`;
}

const UNRANKED: Record<Unranked, string> = {
  'not-verified': 'not verified',
  'not-comparable': 'cannot be compared',
  'too-few-pulls': 'too few pulls',
};

/** Why a setup stands below the line, and what would settle it. */
export function unrankedWords({ unranked, verdict }: Standing): string {
  if (unranked === null) return '';
  if (verdict.verdict === 'verified-loss') return 'a verified loss';
  if (verdict.verdict === 'no-meaningful-change') return 'nothing that would matter';
  const next = nextStep(verdict);
  return next && unranked === 'not-verified' ? next : UNRANKED[unranked];
}

const GAPS: Record<CostGap, string> = {
  parts: 'the price of the part is missing',
  hours: 'the hours are missing',
  rate: 'the shop’s labour rate is missing',
  currencies: 'two currencies have no sum',
};
export const costGapWords = ({ gaps }: SetupCost): string => gaps.map((gap) => GAPS[gap]).join(', ');

const SOURCES: Record<CostSource, string> = {
  clock: 'by the clock',
  fitting: 'from the fitting',
  record: 'from the record',
  typed: 'typed',
};
export const costSourceWords = (source: CostSource | null): string => (source ? SOURCES[source] : '');

/** Money with its currency, without decimals that nobody reckons with. */
export function money(amount: number | null, currency: string | null): string {
  return amount === null ? '–' : withUnit(plain(amount, amount < 100 && amount % 1 !== 0 ? 2 : 0), currency ?? '');
}

/** What may be said to the customer, in up to three sentences. */
export function tellCustomer(job: Job, list: Standings, units: ShownUnits): string[] {
  const { ranked, unranked, first } = list;
  const { one, many } = verbOf(list);
  const gain = (s: Standing) => {
    const read = gainInterval(s.verdict.gain!, units);
    return `${withUnit(read.estimate, read.unit)} (${read.low} to ${read.high})`;
  };
  const sentences: string[] = [];
  if (ranked.length === 0) sentences.push(`None of the parts is verified to ${many} anything on this car.`);
  else {
    const top = ranked.filter((s) => first.includes(s.setup));
    const own = top.length > 0 ? top : [ranked[0]!];
    sentences.push(
      own.length === 1
        ? `The largest gain that is sure: ${nameOf(job, own[0]!.setup)}, ${gain(own[0]!)}.`
        : `${either(own.map((s) => nameOf(job, s.setup)))} ${one} most; this day cannot tell which: ${own.map((s) => `${s.setup} ${gain(s)}`).join(', ')}.`,
    );
    const value = ranked.filter((s) => s.perSureUnit !== null).sort((a, b) => a.perSureUnit! - b.perSureUnit!)[0];
    if (value)
      sentences.push(
        `Most for the money: ${nameOf(job, value.setup)}, ${money(value.perSureUnit, value.cost!.currency)} for each ${value.verdict.gain!.unit === 'W' ? 'kW' : value.verdict.gain!.unit} that is sure, ${money(value.cost!.total, value.cost!.currency)} in all.`,
      );
  }
  const losses = unranked.filter((s) => s.verdict.verdict === 'verified-loss').map((s) => nameOf(job, s.setup));
  const below = ranked.filter((s) => s.verdict.bands.some((b) => b.verdict === 'verified-loss'));
  const open = unranked.filter((s) => s.verdict.verdict === 'not-resolved').map((s) => s.setup);
  if (losses.length > 0)
    sentences.push(`${verdictLook('verified-loss', unranked[0]!.verdict.measure).word}: ${either(losses)}.`);
  else if (below.length > 0) {
    const band = below[0]!.verdict.bands.filter((b) => b.verdict === 'verified-loss');
    sentences.push(
      `${nameOf(job, below[0]!.setup)} pays for its gain: it loses between ${band[0]!.fromRpm} and ${band.at(-1)!.toRpm} rpm.`,
    );
  } else if (open.length > 0)
    sentences.push(`Whether ${either(open)} ${open.length === 1 ? one : many} anything is open after this day.`);
  return sentences.slice(0, 3);
}

/** The question that is most worth asking next. */
export function nextQuestion(job: Job, list: Standings): string {
  const { ranked, first, unranked } = list;
  const open = unranked.find((s) => s.verdict.verdict === 'not-resolved' && s.verdict.morePullsNeeded?.pulls);
  if (first.length > 1)
    return `Which of ${either(first)} ${verbOf(list).one} more? One more round of each, with the baseline between them, tells most.`;
  if (open) return `${nameOf(job, open.setup)} is open: ${nextStep(open.verdict)}`;
  if (ranked.length > 1)
    return `Do ${ranked[0]!.setup} and ${ranked[1]!.setup} add up? Run them together once: crossed.`;
  return 'Nothing is open that a further round would settle.';
}

/** Whether two changes add up, in one sentence. */
export function interactionWords({ interaction, alone }: Crossed, units: ShownUnits): string {
  const read = differenceInterval(interaction, units);
  const unit = read.unit;
  if (interaction.low > 0)
    return `Together they bring more than the sum: ${withUnit(read.estimate, unit)} more (${read.low} to ${read.high}).`;
  if (interaction.high < 0) {
    const less = differenceInterval(
      { ...interaction, estimate: -interaction.estimate, low: -interaction.high, high: -interaction.low },
      units,
    );
    return `Together they bring less than the sum: ${withUnit(less.estimate.replace('+', ''), unit)} less (${less.low.replace('+', '')} to ${less.high.replace('+', '')}).`;
  }
  return `No sign that one changes what the other brings (${alone.join(' and ')}: ±${withUnit(read.half, unit)}).`;
}

/** What one still brings with the other on the car. */
export function onTopWords(crossed: Crossed, which: 0 | 1, units: ShownUnits): string {
  const own = crossed.onTop[which];
  const [setup, other] = which === 0 ? crossed.alone : [crossed.alone[1], crossed.alone[0]];
  if (!own) return '';
  const read = differenceInterval(own, units);
  if (own.low <= 0 && own.high >= 0)
    return `With ${other} fitted, ${setup} adds nothing that we can see (${withUnit(`${read.low} to ${read.high}`, read.unit)}).`;
  return `With ${other} fitted, ${setup} ${own.estimate > 0 ? 'still adds' : 'takes'} ${withUnit(read.estimate, read.unit)} (${read.low} to ${read.high}).`;
}
