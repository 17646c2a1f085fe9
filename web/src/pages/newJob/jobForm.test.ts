import { describe, expect, test } from '@jest/globals';
import { declared } from '@prandel/core';
import type { Schemas } from '../../api/client.ts';
import { newMeasureRow } from '../../parts/MeasuresField.tsx';
import { broughtBy, EMPTY_FORM, fittedPart, newRecords, NOTHING_CHOSEN, requestOf, type JobForm } from './jobForm.ts';

const row = (
  kind: Schemas['RecordRow']['kind'],
  label: string,
  fields: Record<string, unknown>,
): Schemas['RecordRow'] => ({
  id: label,
  kind,
  label,
  version: 1,
  fields,
});
const car = row('vehicle', 'Tarn Vireo 1.8 roadster', {
  owner: 'Bram T.',
  aspiration: 'natural',
  engineToRollerRatio: 5.2,
  modelCard: 'Tarn Vireo 1.8',
  heatSensitive: true,
});
const form: JobForm = {
  ...EMPTY_FORM,
  title: 'Does it help?',
  vehicle: car.label,
  customer: 'Bram T.',
  candidates: [
    { label: 'electric pump', ...declared('part fitted: electric pump'), closedCourseOnly: false },
    { label: 'pump and belt', ...declared(''), closedCourseOnly: true },
  ],
  returnCheck: true,
  low: '3000',
  high: '6800',
  measures: [
    { ...newMeasureRow('windowMeanPower'), matters: '0,8' },
    newMeasureRow('peak', 'charge_c'),
    { ...newMeasureRow('rollOnTime'), target: '162,5' },
  ],
  fuel: '98 octane',
  tune: 'rev 4',
  controller: 'learned',
  losses: ['a dragging brake', 'fluid of unknown grade'],
  card: 'Tarn Vireo 1.8',
};

describe('opening a job', () => {
  test('setups go by letters, share the state recorded at intake, and the return check points at its original', () => {
    const card = row('model-card', 'Tarn Vireo 1.8', { gear: '4' });
    const job = requestOf(form, { ...NOTHING_CHOSEN, card, vehicle: car });
    expect(job.setups.map((s) => s.id)).toEqual(['A', 'B', 'C', 'A2']);
    for (const s of job.setups)
      expect(s.state).toEqual({ fuel: '98 octane', tuneDigest: 'rev 4', controllerState: 'learned' });
    expect(job.setups.at(-1)).toMatchObject({ returnsTo: 'A' });
    expect(job.question).toMatchObject({
      candidateSetups: ['B', 'C'],
      windowRpm: [3000, 6800],
      measures: [
        { id: 'windowMeanPower', meaningful: 0.8 },
        { id: 'peak', channel: 'charge_c', meaningful: 3 },
        { id: 'rollOnTime', target: 162.5, meaningful: 5 },
      ],
    });
    expect(job.day.intake).toMatchObject({ 'Small losses found': 'a dragging brake, fluid of unknown grade' });
    expect(job.day).toMatchObject({ modelCard: { gear: '4' }, customer: 'Bram T.', claim: null });
    expect(job.vehicle).toMatchObject({ heatSensitive: true });
    expect(job.vehicleId).toBe(car.id);
  });

  test('a part on record names the change and whether it is for the closed course; what somebody wrote stays', () => {
    const part = row('part', 'Sports exhaust', { closedCourseOnly: true });
    expect(fittedPart(part, { label: 'Sports exhaust', ...declared(''), closedCourseOnly: false })).toEqual({
      label: 'Sports exhaust',
      ...declared('part fitted: Sports exhaust'),
      closedCourseOnly: true,
    });
    const fuel = { label: '', ...declared('fuel: 98'), closedCourseOnly: false };
    expect(fittedPart(part, fuel)).toMatchObject(declared('fuel: 98'));
    expect(requestOf(form, NOTHING_CHOSEN).setups[2]).toMatchObject({ id: 'C', closedCourseOnly: true });
  });

  test('a car on record brings what is written there, and nothing that is not', () => {
    expect(Object.fromEntries(broughtBy(car))).toEqual({
      customer: 'Bram T.',
      aspiration: 'natural',
      ratio: '5.2',
      card: 'Tarn Vireo 1.8',
    });
  });

  test('a vehicle and a customer that are new are kept on record unless somebody does not want it', () => {
    expect(newRecords(form, { ...NOTHING_CHOSEN, vehicle: car })).toMatchObject([
      { kind: 'customer', label: 'Bram T.' },
    ]);
    const stranger = { ...form, vehicle: 'Pellow Strand', ratio: '4,6' };
    expect(newRecords(stranger, NOTHING_CHOSEN)[0]).toMatchObject({
      kind: 'vehicle',
      label: 'Pellow Strand',
      fields: { engineToRollerRatio: 4.6, owner: 'Bram T.', fuel: '98 octane' },
    });
    expect(newRecords({ ...stranger, keep: false }, NOTHING_CHOSEN)).toEqual([]);
  });
});
