import type { WeatherReading } from '@prandel/core';
import type { Random } from '../random.ts';
import type { DaySpec } from './spec.ts';

/** The air of the bay through a day: it warms towards the afternoon, dries a little, and the pressure wanders. */
export interface DayWeather {
  readonly at: (minute: number) => { pressureHpa: number; airC: number; relativeHumidity: number };
}

export function dayWeather(spec: DaySpec, random: Random): DayWeather {
  const warming = 3 + 1.2 * random.uniform();
  const falling = -0.2 - 0.3 * random.uniform();
  const phase = random.uniform() * 60;
  return {
    at: (minute) => {
      const share = Math.min(1, Math.max(0, minute / 480));
      const airC = spec.morningC + warming * Math.sin((Math.PI / 2) * share) + 0.15 * Math.sin((minute + phase) / 17);
      return {
        pressureHpa: spec.pressureHpa + falling * (minute / 60),
        airC,
        relativeHumidity: 0.52 - 0.012 * (airC - spec.morningC),
      };
    },
  };
}

/** What the bay's weather station wrote down, every ten minutes, with its resolution. */
export function weatherLog(weather: DayWeather, startMs: number, minutes: number): WeatherReading[] {
  return Array.from({ length: Math.floor(minutes / 10) + 1 }, (_, i) => {
    const air = weather.at(i * 10);
    return {
      at: new Date(startMs + i * 600_000).toISOString(),
      pressureHpa: round(air.pressureHpa, 1),
      airC: round(air.airC, 1),
      relativeHumidity: round(air.relativeHumidity, 2),
    };
  });
}

export function round(value: number, digits: number): number {
  return Number(value.toFixed(digits));
}
