import { describe, expect, test } from '@jest/globals';
import { findPasses } from '@prandel/core';
import { mapLogFile } from '../pullFile/mapping.ts';
import { readPullFile } from '../pullFile/readPullFile.ts';
import { groundOfSentence, nmeaSentence } from '../wire/nmea.ts';
import { readSpeedLog } from './readSpeedLog.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const two = (n: number) => String(n).padStart(2, '0');
/** A run from 70 to 130 km/h at 10 km/h a second, five samples a second. */
const run = Array.from({ length: 31 }, (_, i) => ({ t: i / 5, kmH: 70 + 2 * i }));
const rmc = run.map(({ t, kmH }) =>
  nmeaSentence(
    `GPRMC,1203${two(Math.floor(t))}.${Math.round((t % 1) * 10)},A,4807.038,N,01131.000,E,${(kmH / 1.852).toFixed(4)},271.0,020526,,`,
  ),
);

describe('RMC sentences', () => {
  test('the one that every NMEA 0183 text prints: 22.4 knots at 84.4° on the 23rd of March 1994', () => {
    // Values from memory; 1 nautical mile = 1852 m exactly.
    const words = groundOfSentence('$GPRMC,123519,A,4807.038,N,01131.000,E,022.4,084.4,230394,003.1,W*6A')!;
    expect(new Date(words.atMs).toISOString()).toBe('1994-03-23T12:35:19.000Z');
    expect([words.speedKmH, words.courseDeg]).toEqual([expect.closeTo(41.4848, 9), 84.4]);
    expect(groundOfSentence(nmeaSentence('GPRMC,123519,V,,,,,,,230394,,'))).toBeNull();
    expect(groundOfSentence(nmeaSentence('WIXDR,C,20,C,AIR'))).toBeNull();
    expect(() => groundOfSentence(nmeaSentence('GPRMC,12,A,,,,,1,2,230394,,'))).toThrow('no time and date');
  });

  test('a log of them is a log of speed with its instant; a broken line is left out and told', () => {
    const lines = [...rmc.slice(0, 7), '$GPRMC,half a line*00', ...rmc.slice(7)];
    const read = readSpeedLog(bytes(lines.join('\r\n')));
    expect([read.kind, read.log.timeS.length, new Date(read.startedAtMs!).toISOString()]).toEqual([
      'nmea',
      31,
      '2026-05-02T12:03:00.000Z',
    ]);
    expect(read.problems).toEqual([{ line: 8, message: expect.stringContaining('checksum') as unknown }]);
    const [pass] = findPasses(read.log, 80, 120);
    expect(pass!.seconds).toBeCloseTo(4, 2);
    expect(pass!.courseDeg).toBeCloseTo(271, 6);
    const broken = rmc.map((line, i) => (i % 3 === 0 ? line.slice(0, -1) : line));
    expect(() => readSpeedLog(bytes(broken.join('\n')))).toThrow('sentences are broken');
    expect(() => readSpeedLog(bytes(nmeaSentence('GPGGA,1,2')))).toThrow('no RMC sentences');
  });
});

describe('a CSV of time and speed', () => {
  test.each([
    ['Time (s),Speed (km/h)', (t: number, v: number) => `${t.toFixed(2)},${v}`],
    [
      'time_ms;GPS speed (mph)',
      (t: number, v: number) => `${Math.round(t * 1000)};${(v / 1.609344).toFixed(5).replace('.', ',')}`,
    ],
    ['Zeit [s]\tGeschwindigkeit [m/s]', (t: number, v: number) => `${t.toFixed(2)}\t${(v / 3.6).toFixed(5)}`],
  ])('%s', (header, row) => {
    const read = readSpeedLog(bytes([header, ...run.map(({ t, kmH }) => row(t, kmH))].join('\n')));
    expect(read.kind).toBe('csv');
    expect(findPasses(read.log, 80, 120)[0]!.seconds).toBeCloseTo(4, 2);
  });

  test('without a speed it says what is missing', () => {
    expect(() => readSpeedLog(bytes('time (s),rpm\n0,1\n1,2\n2,3\n3,4\n'))).toThrow('No column is road speed');
  });
});

describe('a logger’s record', () => {
  const header = 'Time (s);Engine speed (rpm);Exhaust gas temp (°F);MAP (bar);Oil pressure (psi);Ignition advance;Note';
  const rows = Array.from({ length: 20 }, (_, i) => `${i},0;${2000 + 100 * i};1292;1,8;58,0151;14,5;12`);
  const read = (text: string) => {
    const file = readPullFile(bytes(text));
    return mapLogFile(
      file,
      file.columns.map(({ role, unit }) => ({ role, unit })),
    );
  };

  test('comes in under the names of its quantities, in their units', () => {
    const [record] = read([header, ...rows].join('\r\n'));
    const last = Object.fromEntries(record!.channels.map((c) => [c.name, c.values.at(-1)]));
    expect(last).toEqual({
      time_s: 19,
      engine_rpm: 3900,
      exhaust_c: expect.closeTo(700, 6) as unknown,
      manifold_kpa: expect.closeTo(180, 9) as unknown,
      oil_bar: expect.closeTo(4, 4) as unknown,
      ignition_deg: 14.5,
      note: 12,
    });
  });

  test('without time, or without anything that moves, it is refused in words', () => {
    expect(() => read('Engine speed (rpm),Oil temp (°C)\n900,80\n1000,81\n1100,82\n1200,83\n1300,84\n')).toThrow(
      'No column is time',
    );
    expect(() => read('Time (s),Oil temp (°C)\n0,80\n1,81\n2,82\n3,83\n4,84\n')).toThrow('nor throttle');
  });
});
