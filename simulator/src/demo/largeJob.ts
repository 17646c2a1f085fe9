import type { Job } from '@prandel/core';
import { simulateDay } from '../day/simulateDay.ts';
import { DEMO_DAYS } from './demoJobs.ts';

/** Channels of a pull of the large job. */
const CHANNELS = 20;

/**
 * A job at the size that a shop with a well-equipped car reaches: forty pulls of 60 s at 100 Hz with twenty channels, A B A B A, one
 * part against a baseline. Physics of the first demo day on rollers seventeen times as heavy; the channels beyond the car's own are made up.
 */
export function largeJob(): Job {
  const spec = DEMO_DAYS[0]!;
  const rounds = ['A', 'B', 'A2', 'B', 'A'].map((setup, i) => ({
    ...{ setup, settle: 2, counted: 6, startMinute: 90 * i, minutesPerPull: 5 },
  }));
  const { bay, setups, question, ...rest } = spec;
  const job = simulateDay({
    ...rest,
    question,
    setups: setups.filter(({ id }) => id !== 'C'),
    sampleHz: 100,
    mishaps: [],
    bay: { ...bay, rollerInertiaKgM2: 26.4 * 17 },
    rounds,
  });
  return {
    ...job,
    question: { ...question, candidateSetups: ['B'] },
    pulls: job.pulls.map((pull) => ({
      ...pull,
      channels: [
        ...pull.channels,
        ...Array.from({ length: CHANNELS - pull.channels.length }, (_, k) => ({
          name: `extra_${k + 1}_c`,
          values: pull.channels[1]!.values.map(
            (n, i) => Math.round(10 * (40 + 5 * k + n / 400 + Math.sin(i / 40))) / 10,
          ),
        })),
      ],
    })),
  };
}
