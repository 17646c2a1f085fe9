import { airDensityKgM3 } from '../air/air.ts';
import type { Job } from '../job/job.ts';
import { pullWeather } from '../job/weather.ts';
import type { GridCurve } from '../pull/gridCurve.ts';
import { mean } from '../statistics/summary.ts';
import type { Judgement } from '../verdict/outcome.ts';

/** Without weather: the air of the standard atmosphere at sea level. Source: ICAO Doc 7488 / ISO 2533. */
const USUAL_DENSITY = 1.225;

/** Mean curve of a setup with the weather correction of its pulls taken out again; null without one. */
export function asDriven({ setups, pulls }: Judgement, setupId: string): GridCurve | null {
  const own = setups.find((s) => s.setupId === setupId);
  if (!own || own.power.values.length < 2) return null;
  const factors = pulls.filter((p) => p.setupId === setupId && p.used).map((p) => p.factor ?? 1);
  const factor = factors.length > 0 ? mean(factors) : 1;
  return { ...own.power, values: own.power.values.map((p) => p / factor) };
}

/** Air of the first pull that knows it. */
export function densityOf(job: Job): number {
  for (const pull of job.pulls) {
    const { air } = pullWeather(job, pull);
    if (air) return airDensityKgM3(air);
  }
  return USUAL_DENSITY;
}
