import { gearingProblem, useProblem, type Gearing, type Job, type Money, type UseProfile } from '@prandel/core';
import { UnreadableError } from '../problem.ts';
import { part, type Json } from './members.ts';

/** What of the `prandel` object costs, gears and use are; members that are absent stay absent. @throws UnreadableError naming the member */
export function useOfTheCar(prandel: Json): Pick<Job, 'money' | 'gearing' | 'use'> {
  return {
    ...(prandel.money ? { money: moneyOf(prandel.money) } : {}),
    ...(prandel.gearing ? { gearing: gearingOf(prandel.gearing) } : {}),
    ...(prandel.use ? { use: useOf(prandel.use) } : {}),
  };
}

function moneyOf(value: unknown): Money {
  const { currency, hourlyRate } = part(value);
  if (currency != null && (typeof currency !== 'string' || currency.length > 20))
    refuse('money.currency', 'no currency');
  if (hourlyRate != null && !(typeof hourlyRate === 'number' && hourlyRate >= 0 && hourlyRate < 1e6))
    refuse('money.hourlyRate', 'no rate');
  return { currency: (currency as string | null) ?? null, hourlyRate: (hourlyRate as number | null) ?? null };
}

function gearingOf(value: unknown): Gearing {
  const own = part(value);
  const number = (name: string) => {
    const n = own[name];
    return typeof n === 'number' && Number.isFinite(n) ? n : refuse(`gearing.${name}`, 'no number');
  };
  const ratios = Array.isArray(own.ratios) ? (own.ratios as unknown[]) : refuse('gearing.ratios', 'no list');
  if (!ratios.every((r): r is number => typeof r === 'number')) refuse('gearing.ratios', 'no list of numbers');
  const gearing: Gearing = {
    ratios: ratios,
    ...{ finalDrive: number('finalDrive'), circumferenceM: number('circumferenceM') },
    ...{ limiterRpm: number('limiterRpm'), shiftSeconds: number('shiftSeconds') },
  };
  const wrong = gearingProblem(gearing);
  return wrong ? refuse('gearing', wrong) : gearing;
}

function useOf(value: unknown): UseProfile {
  const { name, shares } = part(value);
  if (typeof name !== 'string' || name.length > 80) return refuse('use.name', 'no name');
  if (!Array.isArray(shares) || shares.length > 100) return refuse('use.shares', 'no list of shares');
  const use: UseProfile = {
    name,
    shares: shares.map((s: unknown) => {
      const { fromRpm, share } = part(s);
      return typeof fromRpm === 'number' && typeof share === 'number'
        ? { fromRpm, share }
        : refuse('use.shares', 'a share is two numbers, fromRpm and share');
    }),
  };
  const wrong = useProblem(use);
  return wrong ? refuse('use', wrong) : use;
}

function refuse(member: string, why: string): never {
  throw new UnreadableError(`datapackage.json: ${member}: ${why}.`);
}
