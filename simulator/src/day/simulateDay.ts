import { DEFAULT_METHOD, newPull, type Job, type Pull } from '@prandel/core';
import { Random } from '../random.ts';
import { simulatePull } from './pullPhysics.ts';
import { simulateRollOn } from './rollOnPhysics.ts';
import type { DaySpec, Mishap } from './spec.ts';
import { dayWeather, round, weatherLog } from './weather.ts';

/**
 * Runs a whole day on the rollers and returns the job as a shop would have recorded it. Seeded: the same spec gives the
 * same bytes. Heat soak rises with every pull and decays between them; the day drifts; each round and pull scatters.
 */
export function simulateDay(spec: DaySpec): Job {
  const random = new Random(spec.seed);
  const weather = dayWeather(spec, random);
  const startMs = Date.parse(spec.date);
  const drift = random.normal(spec.driftPercentPerHour);
  const numbers = new Map<string, number>();
  const rounds = new Map<string, number>();
  const pulls: Pull[] = [];
  let soak = 0;
  let core = 0;
  let lastMinute = spec.rounds[0]!.startMinute - 60;
  for (const block of spec.rounds) {
    const roundNumber = (rounds.get(block.setup) ?? 0) + 1;
    rounds.set(block.setup, roundNumber);
    const roundOffset = random.normal(0.12);
    // How the engine answers differs a little from round to round.
    const answered = block.kind === 'roll-on' ? Math.exp(random.normal(0.004)) : 1;
    for (let position = 1; position <= block.settle + block.counted; position += 1) {
      const minute = block.startMinute + (position - 1) * block.minutesPerPull + random.uniform() * 0.6;
      const number = (numbers.get(block.setup) ?? 0) + 1;
      numbers.set(block.setup, number);
      const mishap = spec.mishaps.find((m) => m.setup === block.setup && m.pull === number) ?? null;
      soak *= Math.exp(-(minute - lastMinute) / 9);
      core *= Math.exp(-(minute - lastMinute) / 12);
      lastMinute = minute;
      const cooler = spec.coolers?.[block.setup] ?? null;
      const air = weather.at(minute);
      const fanOff = spec.fanOff?.includes(block.setup) ?? false;
      const hot = mishap?.kind === 'hot-start' ? 5.5 : 0;
      const startAboveAirC = (fanOff ? 17 : 6) + (cooler ? core : soak) + hot + random.normal(0.25);
      const cold = position === 1 ? 1.1 : position === 2 ? 0.35 : 0;
      const offsetPercent = (drift * minute) / 60 + roundOffset + random.normal(spec.pullSd) + cold;
      const state = {
        air,
        startAboveAirC,
        coolantC: 88 + Math.min(4, position) + random.normal(0.4),
        oilC: 90 + 2 * Math.min(4, position) + random.normal(0.5),
        offsetPercent,
        effect: spec.effects[block.setup] ?? (() => 0),
        mishap: mishap?.kind ?? null,
        vacuumKpa: spec.intakes?.[block.setup] ?? null,
        cooler: cooler && { effectiveness: cooler.effectiveness, coreC: core },
      };
      const answer = block.kind === 'roll-on' ? (spec.rollOns?.seconds[block.setup] ?? null) : null;
      const channels =
        answer === null ? simulatePull(spec, state, random) : simulateRollOn(spec, state, answer * answered, random);
      soak += fanOff ? 8 : 5.5;
      core += cooler?.warmsC ?? 0;
      pulls.push({
        ...newPull(`${block.setup}-${number}`, block.setup, position),
        ...(block.kind ? { kind: block.kind } : {}),
        round: roundNumber,
        startedAt: new Date(Math.round((startMs + minute * 60_000) / 1000) * 1000).toISOString(),
        ...statusOf(position, block.settle, mishap),
        gear: spec.gear,
        pressureHpa: round(air.pressureHpa, 1),
        airC: round(air.airC, 1),
        relativeHumidity: round(air.relativeHumidity, 2),
        intakeStartC: round(air.airC + startAboveAirC, 1),
        coolantStartC: round(state.coolantC, 1),
        oilStartC: round(state.oilC, 1),
        channels,
      });
    }
  }
  return {
    id: spec.id,
    title: spec.title,
    openedAt: new Date(startMs).toISOString(),
    timeZone: 'Europe/Lisbon',
    vehicle: spec.vehicle,
    bay: spec.bay,
    question: spec.question,
    method: spec.method ?? DEFAULT_METHOD,
    setups: spec.setups,
    pulls,
    weather: weatherLog(weather, startMs, lastMinute + 10),
  };
}

function statusOf(position: number, settle: number, mishap: Mishap | null): Pick<Pull, 'status' | 'reason'> {
  if (mishap?.setAside) return { status: 'set-aside', reason: mishap.setAside };
  return { status: position <= settle ? 'settle' : 'counted', reason: null };
}
