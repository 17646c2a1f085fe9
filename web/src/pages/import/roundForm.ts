import type { Schemas } from '../../api/client.ts';

/** What a file does not say about its round, as typed. */
export interface RoundForm {
  readonly state: '' | 'uncorrected' | 'corrected' | 'scaled' | 'unknown';
  readonly standard: string;
  readonly factor: string;
  readonly settle: string;
  readonly gear: string;
  readonly pressure: string;
  readonly air: string;
  readonly humidity: string;
}

export const EMPTY_ROUND: RoundForm = {
  state: '',
  standard: 'sae-j1349',
  factor: '',
  settle: '1',
  gear: '',
  pressure: '',
  air: '',
  humidity: '',
};

const numberOf = (text: string) => (text.trim() === '' ? null : Number(text.replace(',', '.')));

/** The number state in words of the open format; null until somebody has answered. */
export function numberStateOf(form: RoundForm): Schemas['NumberStateDto'] | null {
  const factor = numberOf(form.factor);
  switch (form.state) {
    case '':
      return null;
    case 'corrected':
      return factor ? { kind: 'corrected', standard: form.standard, factor } : null;
    case 'scaled':
      return factor ? { kind: 'scaled', factor } : null;
    default:
      return { kind: form.state };
  }
}

export function conditionsOf(form: RoundForm): Schemas['RoundConditions'] {
  const humidity = numberOf(form.humidity);
  return {
    pressureHpa: numberOf(form.pressure),
    airC: numberOf(form.air),
    relativeHumidity: humidity === null ? null : humidity / 100,
    gear: form.gear.trim() || null,
  };
}
