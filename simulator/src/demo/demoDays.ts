import { DEFAULT_METHOD, USUAL_DAY, type Fitting, type Job } from '@prandel/core';
import { VIREO_CARD } from '../live/liveDay.ts';

/** A fitting of the demo day, its clock in minutes from the first pull. */
function fitting(job: Job, setup: string, from: number, to: number, more: Partial<Fitting>): Fitting {
  const at = (minute: number) => new Date(Date.parse(job.openedAt!) + minute * 60_000).toISOString();
  return {
    ...{ setup, who: 'Ines R.', startedAt: at(from), stoppedAt: at(to) },
    ...{ changed: '', disturbed: '', parts: '', cost: null, notes: '' },
    ...more,
  };
}

/** The main demo job with the papers of its day: who asked, by which house method, and what was fitted when. All invented. */
export function withJobDay(job: Job): Job {
  return {
    ...job,
    method: {
      ...DEFAULT_METHOD,
      name: 'House method',
      schools: {
        whichPullsSpeak: 'modelled',
        firstPull: 'recorded',
        hood: 'closed',
        safeties: 'on',
        controllerReset: 'leave',
        tune: 'locked',
        pause: 'gates',
        stock: 'arrived',
        rig: 'driven',
        fuel: 'own',
      },
    },
    day: {
      ...USUAL_DAY,
      customer: 'Bram T.',
      claim: 'The seller promises three kilowatts at the wheels.',
      modelCard: VIREO_CARD,
      fittings: [
        fitting(job, 'B', 42, 96, {
          changed: 'belt-driven fan off, electric fan on',
          disturbed: 'top radiator hose',
          parts: 'electric fan, relay, shroud bracket',
          cost: 210,
        }),
        fitting(job, 'C', 146, 198, {
          changed: 'insulated gasket under the inlet manifold',
          disturbed: 'throttle cable, fuel rail',
          parts: 'gasket, two longer studs',
          cost: 65,
        }),
        fitting(job, 'A2', 241, 298, {
          changed: 'both parts off again',
          disturbed: 'top radiator hose, throttle cable, fuel rail',
        }),
      ],
    },
  };
}
