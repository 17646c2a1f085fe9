import { UNKNOWN_BAY, type Bay } from '@prandel/core';
import type { Engine } from '../day/spec.ts';

/** The rollers, the state and the engines of the demo; all invented. */
export const ROLLERS: Bay = {
  ...UNKNOWN_BAY,
  label: 'Bay 1',
  kind: 'inertia',
  rollerInertiaKgM2: 26.4,
  calibrationEpoch: '2026-03-01',
  elevationM: 90,
  lossTorqueNm: [3.1, 0.021, 0.0004],
};

export const DEMO_STATE = {
  fuel: '95 octane',
  tuneDigest: '9c1fe2',
  hood: 'shut',
  fan: '3',
  safeties: 'on',
  controllerState: 'learned',
  loadSetting: 'free sweep',
  tyrePressureKpa: '230',
};

export const VIREO: Engine = {
  points: [
    [1500, 118],
    [2000, 128],
    [2500, 139],
    [3000, 149],
    [3300, 150],
    [3600, 153],
    [4000, 163],
    [4500, 174],
    [5000, 179],
    [5500, 180],
    [6000, 177],
    [6500, 169],
    [7000, 153],
    [7400, 138],
  ],
  idleRpm: 850,
  startRpm: 1750,
  limitRpm: 7150,
};
export const PELLOW: Engine = {
  points: [
    [1500, 190],
    [2000, 208],
    [2500, 222],
    [3000, 231],
    [3500, 236],
    [4000, 238],
    [4500, 235],
    [5000, 226],
    [5500, 212],
    [6000, 190],
    [6400, 170],
  ],
  idleRpm: 700,
  startRpm: 1700,
  limitRpm: 6150,
};
export const AMBRY: Engine = {
  points: [
    [1500, 110],
    [1900, 150],
    [2300, 178],
    [2800, 186],
    [3400, 187],
    [4000, 186],
    [4600, 181],
    [5200, 170],
    [5800, 152],
    [6300, 132],
  ],
  idleRpm: 800,
  startRpm: 1700,
  limitRpm: 6000,
};
export const DORSIN: Engine = {
  points: [
    [1500, 205],
    [2000, 232],
    [2500, 251],
    [3000, 262],
    [3500, 268],
    [4000, 271],
    [4500, 270],
    [5000, 264],
    [5500, 252],
    [6000, 235],
    [6500, 214],
  ],
  idleRpm: 750,
  startRpm: 1700,
  limitRpm: 6350,
};
