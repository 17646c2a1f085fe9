import { describe, expect, test } from '@jest/globals';
import { newJob, newPull, type Job } from '@prandel/core';
import fc from 'fast-check';
import { readPackage } from './readPackage.ts';
import { writePackage } from './writePackage.ts';
import type { PackageFiles } from './packageFiles.ts';

// What stands beside the pulls of a package: passes on the road, gauges read by hand, loggers.
const text = (files: PackageFiles, path: string) => new TextDecoder().decode(files.get(path));
const bytes = (content: string) => new TextEncoder().encode(content);
const job = (more: Partial<Job>): Job => ({
  ...newJob('QG-1', 'Does it pull harder?'),
  pulls: [newPull('A-1', 'A', 1)],
  ...more,
});
const withFile = (path: string, content: string): PackageFiles =>
  new Map([...writePackage(job({})), [path, bytes(content)]]);

describe('passes on the road in a package', () => {
  const pass = fc.record({
    setupId: fc.constantFrom('A', 'B'),
    at: fc.constantFrom(null, '2026-05-02T15:10:00Z', '2026-05-02T15:14:30.250Z'),
    direction: fc.constantFrom('', 'out', 'back', 'north, uphill', 'süd'),
    fromKmH: fc.integer({ min: 40, max: 100 }),
    toKmH: fc.integer({ min: 110, max: 200 }),
    seconds: fc.double({ min: 0.5, max: 60, noNaN: true }),
  });

  test('go out and come in again as they were (property)', () => {
    fc.assert(
      fc.property(fc.array(pass, { minLength: 1, maxLength: 12 }), (roadPasses) => {
        const files = writePackage(job({ roadPasses }));
        expect(text(files, 'road_passes.csv')).toMatch(/^setup_id,at,direction,from_km_h,to_km_h,seconds\r\n/);
        expect(readPackage(files).job.roadPasses).toEqual(roadPasses);
      }),
      { numRuns: 60 },
    );
  });

  test('with the car, unknown columns and a measure of its own; none of it is written where there was no road check', () => {
    const road = { massKg: 1250, overallRatio: 4.1, tyreRadiusM: 0.31, dragAreaM2: null, rolling: 0.012 };
    const csv = 'setup_id,at,direction,from_km_h,to_km_h,seconds,driver\nA,,out,80,120,6.4,Ines\n';
    const measures = [{ id: 'roadTime', fromKmH: 80, toKmH: 120, meaningful: 1 }] as const;
    const files = new Map(writePackage(job({ road, question: { ...newJob('', '').question, measures } })));
    const { job: read, extras } = readPackage(files.set('road_passes.csv', bytes(csv)));
    expect([read.road, read.question.measures]).toEqual([road, measures]);
    expect(text(writePackage(read, extras), 'road_passes.csv')).toContain('6.4,Ines');
    expect([...writePackage(job({})).keys()]).toEqual(['datapackage.json', 'setups.csv', 'pulls.csv']);
  });

  test.each([
    ['A,,out,80,120,', 'line 2: seconds is empty'],
    ['A,,out,120,80,6', 'line 2: a pass goes from a lower to a higher speed'],
    ['A,,out,80,120,4000', 'line 2: seconds: 4000 s is outside'],
    ['A,yesterday,out,80,120,6', 'line 2: at: "yesterday" is not a date'],
    ['X,,out,80,120,6', 'Line 2 of road_passes.csv names setup "X"'],
  ])('%s is refused with its place', (row, message) => {
    const files = withFile('road_passes.csv', `setup_id,at,direction,from_km_h,to_km_h,seconds\n${row}\n`);
    expect(() => readPackage(files)).toThrow(message);
  });
});

describe('gauges read by hand in a package', () => {
  test('are read with the unit beside them or in the name, and written in the channel’s own', () => {
    const csv =
      'pull_id,quantity,unit,at,value\nA-1,oil,°F,peak,212\nA-1,oil_bar,,end,4.2\nA-1,inlet_vacuum_kpa,hPa,peak,31\nA-1,Gearbox,°C,start,71\n';
    const { job: read } = readPackage(withFile('readings.csv', csv));
    expect(read.readings).toEqual([
      { pullId: 'A-1', channel: 'oil_c', moment: 'peak', value: expect.closeTo(100, 9) as unknown },
      { pullId: 'A-1', channel: 'oil_bar', moment: 'end', value: 4.2 },
      { pullId: 'A-1', channel: 'inlet_vacuum_kpa', moment: 'peak', value: expect.closeTo(3.1, 9) as unknown },
      { pullId: 'A-1', channel: 'gearbox_c', moment: 'start', value: 71 },
    ]);
    const again = writePackage(read);
    expect(text(again, 'readings.csv')).toContain('A-1,gearbox_c,°C,start,71');
    expect(readPackage(again).job.readings).toEqual(read.readings);
  });

  test.each([
    ['A-1,charge,°C,peak,3000', 'line 2: 3000 °C is outside -60–400 °C for charge_c'],
    ['A-1,oil_c,,middle,90', 'at "middle" is none of start, peak, end'],
    ['Z-9,oil_c,,peak,90', 'names pull "Z-9"'],
  ])('%s is refused with its place', (row, message) => {
    expect(() => readPackage(withFile('readings.csv', `pull_id,quantity,unit,at,value\n${row}\n`))).toThrow(message);
  });
});
