/** @jest-environment jsdom */
import { afterEach, describe, expect, test } from '@jest/globals';
import { CORRECTION_IDS, judgeJob, warmUpDay, type Job, type Judgement } from '@prandel/core';
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react';
import { StandardsCard } from './StandardsCard.tsx';

afterEach(cleanup);

/** A made-up day of the core's own, with weather. */
const plain = warmUpDay();
const job: Job = {
  ...plain,
  pulls: plain.pulls.map((p) => ({ ...p, airC: 22, pressureHpa: 985, relativeHumidity: 0.5 })),
};
const power = judgeJob(job).verdicts.find((v) => v.gain?.unit === 'W')!;
const UNITS = { power: 'kW', torque: 'N·m', temperature: '°C', pressure: 'hPa' } as never;

/** Each standard is judged once for all tests. */
const judged = new Map<string, Judgement>();
const judgedUnder = (other: Job) => {
  const { correction } = other.method;
  if (!judged.has(correction)) judged.set(correction, judgeJob(other));
  return judged.get(correction)!;
};
const PATIENT = { timeout: 30_000 };

const open = (of: Job, asked: string[] = []) => {
  render(
    <StandardsCard
      job={of}
      v={power}
      units={UNITS}
      judgeOnce={(other) => {
        asked.push(other.method.correction);
        return Promise.resolve(judgedUnder(other));
      }}
    />,
  );
  const details = screen.getByText('Gain under each standard').closest('details')!;
  details.open = true;
  fireEvent(details, new Event('toggle'));
  return asked;
};
const rows = () => [...document.querySelectorAll('tr[data-standard]')].map((r) => r.textContent);

describe('the gain under each standard', () => {
  test('is judged only when it is opened, once for each standard whose figures are known', async () => {
    const asked = open(job);
    await waitFor(() => expect(rows()).toHaveLength(CORRECTION_IDS.length - 1), PATIENT);
    expect(asked).toEqual(CORRECTION_IDS.filter((id) => id !== 'iso-1585-ci'));
    // Per cent hardly moves, whatever the standard; the number moves with its factor.
    const read = rows().map((row) => /([+−][\d.]+) ±[\d.]+ kW([+−][\d.]+) ±[\d.]+ %/.exec(row)!.slice(1));
    const numbers = (k: number) => read.map((r) => Number(r[k]!.replace('−', '-')));
    expect(Math.max(...numbers(1)) - Math.min(...numbers(1))).toBeLessThan(0.15);
    expect(new Set(numbers(0)).size).toBeGreaterThan(1);
  }, 60_000);

  test('with an engine’s figures the standard for compression ignition has its row', async () => {
    const engine = { turbocharged: true, fuelMgPerLitreCycle: 52, boostPressureRatio: 1.9 };
    open({ ...job, method: { ...job.method, compressionIgnition: engine } });
    await waitFor(() => expect(rows()).toHaveLength(CORRECTION_IDS.length), PATIENT);
  }, 60_000);

  test('what no weather corrects has no such table', () => {
    render(
      <StandardsCard
        job={job}
        v={{ ...power, gain: { ...power.gain!, unit: '°C' } }}
        units={UNITS}
        judgeOnce={() => Promise.reject(new Error('never asked'))}
      />,
    );
    expect(screen.queryByText('Gain under each standard')).toBeNull();
  });
});
