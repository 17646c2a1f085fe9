import { Buffer } from 'node:buffer';
import { PullDetector, type Job } from '@prandel/core';
import { mapPullFile, readPullFile, rollerLine, rollerSample } from '@prandel/formats';
import { channelCsv, DEMO_DAYS, simulateDay } from '@prandel/simulator';
import Papa from 'papaparse';
import { printCalibration } from './calibration.ts';
import { printMeasureCalibration } from './measureCalibration.ts';
import { printRankCalibration } from './rankCalibration.ts';
import { growth, largeJobRatios } from './largeJobBench.ts';

/** Prints speed and calibration as ratios measured in one run; never a gate. */
export function benchCommand(days: number, print: (line: string) => void): number {
  importRatio(print);
  largeJobRatios(print);
  growth(print);
  liveRatio(print);
  printCalibration(days, print);
  printMeasureCalibration(days, print);
  printRankCalibration(Math.min(days, 400), print);
  return 0;
}

function seconds(work: () => void, times: number): number {
  work();
  const runs = Array.from({ length: times }, () => {
    const start = performance.now();
    work();
    return (performance.now() - start) / 1000;
  });
  return Math.min(...runs);
}

/** Twelve pulls of 60 s at 100 Hz: a slow, loaded sweep of the demo car. */
function longJob(): Job {
  const spec = DEMO_DAYS[0]!;
  return simulateDay({
    ...spec,
    sampleHz: 100,
    mishaps: [],
    bay: { ...spec.bay, rollerInertiaKgM2: 26.4 * 6 },
    rounds: [
      ['A', 0],
      ['B', 80],
      ['A2', 160],
    ].map(([setup, at]) => ({
      setup: String(setup),
      settle: 1,
      counted: 3,
      startMinute: Number(at),
      minutesPerPull: 6,
    })),
  });
}

function importRatio(print: (line: string) => void): void {
  const job = longJob();
  const text = channelCsv(job, job.pulls[0]!.id, { delimiter: ';', decimal: '.', title: 'bench', recordedAt: null });
  const head = text.split('\r\n');
  const large = [
    ...head.slice(0, 4),
    ...Array.from({ length: 20 }, (_, i) =>
      head.slice(4, -1).map((row) => row.replace(/^[\d.]+/, (t) => String(Number(t) + 100 * i))),
    ).flat(),
  ].join('\r\n');
  const ordinary = large.slice(0, large.lastIndexOf('\r\n', 120_000));
  // A server reads thousands of files: both parsers are measured warm.
  for (const text of [ordinary, large]) {
    const bytes = Buffer.from(text);
    const times = text.length > 1e6 ? 12 : 60;
    const bare = seconds(() => Papa.parse(text, { delimiter: ';' }), times);
    const ours = seconds(() => {
      const file = readPullFile(bytes);
      mapPullFile(file, file.columns);
    }, times);
    print(
      `import: ${(bytes.length / 1e6).toFixed(2)} MB, reader and mapper are ${(bare / ours).toFixed(2)} × as fast as a bare CSV parse of the same bytes (${(bytes.length / 1e6 / ours).toFixed(1)} MB/s against ${(bytes.length / 1e6 / bare).toFixed(1)} MB/s)`,
    );
  }
}

const LIVE_CHANNELS = 20;
const LIVE_HZ = 100;
const START_MS = Date.UTC(2026, 4, 2, 8);

/** A minute of one bay as its rollers tell it: a pull of 15 s, then the run-out. */
function liveMinute(): string[] {
  return Array.from({ length: 60 * LIVE_HZ }, (_, i) => {
    const s = i / LIVE_HZ;
    const omega = s < 15 ? 35 + 6.5 * s : Math.max(0, 132 - 3 * (s - 15));
    const more = Object.fromEntries(
      Array.from({ length: LIVE_CHANNELS - 3 }, (_, k) => [`extra${k}_c`, 20 + k + s / 100]),
    );
    const throttle_fraction = s < 15 ? 1 : 0;
    return rollerLine(START_MS + i * 10, { engine_rpm: 50 * omega, roller_rad_s: omega, throttle_fraction, ...more });
  });
}

/** What hearing a bay costs: lines to checked samples and found pulls, against real time and a bare JSON parse. */
function liveRatio(print: (line: string) => void): void {
  const lines = liveMinute();
  const bare = seconds(() => lines.forEach((line) => JSON.parse(line) as unknown), 5);
  const ours = seconds(() => {
    const detector = new PullDetector();
    for (const line of lines) {
      const { atMs, channels } = rollerSample(line);
      detector.push({
        seconds: atMs! / 1000,
        engineRpm: channels.engine_rpm ?? NaN,
        rollerRadS: channels.roller_rad_s ?? NaN,
        throttle: channels.throttle_fraction ?? NaN,
      });
    }
  }, 5);
  print(
    `live: ${LIVE_CHANNELS} channels at ${LIVE_HZ} Hz: hearing a bay and finding its pulls takes ${((100 * ours) / 60).toFixed(2)} % of real time, ${(ours / bare).toFixed(2)} × a bare JSON parse of the same lines`,
  );
}
