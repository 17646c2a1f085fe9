import type { OutcomeField } from '@prandel/core';

/** How the rows beside the power are headed. */
export const OUTCOME_LABELS: Readonly<Record<OutcomeField, string>> = {
  noise: 'Noise',
  overrun: 'Overrun',
  coldStart: 'Cold start',
  fit: 'Fit under the hood',
  faultLamp: 'Fault lamp',
  difficulty: 'Difficulty',
};
