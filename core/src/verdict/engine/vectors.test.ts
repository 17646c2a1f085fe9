import { describe, expect, test } from '@jest/globals';
import { day, type Day, judged, lowered, without, V1, V2, V3, V5, V6, V10 } from '../../test/engineDays.ts';
import { answerOf, nodeWeights, type Answer } from './answer.ts';
import { fitContrast } from './fit.ts';
import { jobTable, learnedNoise, priorsWith, unlikeToday } from './history.ts';
import { BAND_SCATTER, driftKernel, nodeAt, USUAL_MODEL, usualPrior } from './model.ts';
import { plugIn } from './plugIn.ts';
import { prepare } from './prepare.ts';

/** Six significant digits agree. */
const six = (value: number, wanted: number) =>
  expect(Math.abs(value - wanted)).toBeLessThanOrEqual(Math.max(6e-6 * Math.abs(wanted), 6e-8));

type Row = [string, Answer, number[], [number, number], [number, number], number, number, [number, number], number];
const vectors: Row[] = [
  [
    'V1 A3B3',
    judged(V1),
    [2.23242],
    [1.43041, 3.03308],
    [1.63116, 2.83356],
    0.00155444,
    0.248076,
    [0.0692458, 0.144184],
    0.714623,
  ],
  [
    'V2 A3B3A2',
    judged(V2),
    [2.29379],
    [1.85341, 2.73406],
    [1.94921, 2.63826],
    1.05261e-5,
    0.201118,
    [0.0591371, 0.107195],
    3.2993,
  ],
  [
    'V3 B lowered by 1.9',
    judged(V3),
    [0.393785],
    [-0.0465939, 0.834064],
    [0.0492145, 0.738261],
    0.0698063,
    0.201118,
    [0.0591371, 0.107195],
    3.2993,
  ],
  [
    'V4 B lowered by 2.25',
    judged(lowered(2.25)),
    [0.0437854],
    [-0.396594, 0.484064],
    [-0.300785, 0.388261],
    0.804694,
    0.201118,
    [0.0591371, 0.107195],
    3.2993,
  ],
  [
    'V5 a bad pull',
    judged(V5),
    [2.26582],
    [1.42749, 3.04915],
    [1.62442, 2.89205],
    0.00223291,
    0.358827,
    [0.0911365, 0.163966],
    -4.25177,
  ],
  [
    'V6 a noisy day',
    judged(V6),
    [2.24181],
    [-1.0006, 5.29754],
    [-0.297536, 4.68991],
    0.134815,
    1.08915,
    [0.267162, 0.600146],
    -8.88483,
  ],
  [
    'V7 heat off',
    judged(V1, { meantToChange: true }),
    [2.11853],
    [0.910966, 3.47415],
    [1.17885, 3.13332],
    0.00678913,
    0.406316,
    [0.105336, 0.231941],
    -1.28942,
  ],
  [
    'V8 start temperatures missing',
    judged(day(6, undefined, without)),
    [2.11853],
    [0.66486, 3.67817],
    [0.938536, 3.3469],
    0.0103946,
    0.406316,
    [0.105336, 0.231941],
    -1.28942,
  ],
  [
    'V9 B hours later',
    judged(day(6, undefined, [{}, {}, {}, ...[300, 305, 310].map((m) => ({ hours: m / 60 }))])),
    [2.23252],
    [0.590215, 3.871],
    [1.06406, 3.39966],
    0.0241965,
    0.248174,
    [0.0692649, 0.143944],
    0.712854,
  ],
  [
    'V10 B of three',
    judged(V10, {}, [-1, 1, 0]),
    [2.26811],
    [1.88376, 2.654],
    [1.9646, 2.57261],
    4.78373e-6,
    0.164966,
    [0.0532662, 0.0931618],
    6.713,
  ],
  [
    'V10 C of three',
    judged(V10, {}, [-1, 0, 1]),
    [1.10204],
    [0.717581, 1.48672],
    [0.798438, 1.40563],
    0.000446838,
    0.164966,
    [0.0532662, 0.0931618],
    6.713,
  ],
  [
    'V10 C against B',
    judged(V10, {}, [0, -1, 1]),
    [-1.16607],
    [-1.56829, -0.766946],
    [-1.4844, -0.849691],
    0.000322072,
    0.164966,
    [0.0532662, 0.0931618],
    6.713,
  ],
  [
    'V11 unstrapped',
    judged(V1, { unstrapped: true }),
    [2.23242],
    [1.26924, 3.19467],
    [1.51231, 2.95245],
    0.00321397,
    0.248076,
    [0.0692458, 0.144184],
    0.714623,
  ],
  [
    'V13 V2 unstrapped',
    judged(V2, { unstrapped: true }),
    [2.2949],
    [1.74852, 2.84177],
    [1.87203, 2.71802],
    0.000112699,
    0.200782,
    [0.057073, 0.108878],
    3.22309,
  ],
  [
    'V14 V2 without start temperatures',
    judged(day(8, undefined, without)),
    [2.06892],
    [1.00925, 3.13084],
    [1.19368, 2.94526],
    0.000987478,
    0.388768,
    [0.0999501, 0.190985],
    -0.633087,
  ],
];

describe('the vectors of the engine', () => {
  test.each(vectors)(
    '%s',
    (_, a, [estimate], [low, high], [low90, high90], p, scatter, [mount, drift], logEvidence) => {
      six(a.estimate, estimate!);
      [a.low, a.high].forEach((end, i) => six(end, [low, high][i]!));
      [a.low90, a.high90].forEach((end, i) => six(end, [low90, high90][i]!));
      six(a.p, p);
      six(a.scatterToday, scatter);
      six(a.geometric.mount, mount);
      six(a.geometric.drift, drift);
      six(a.logEvidence, logEvidence);
    },
  );

  test('the likeliest bad pull of each, and the one that was made bad', () => {
    const worst = (a: Answer) => [Math.max(...a.badPulls), a.badPulls.indexOf(Math.max(...a.badPulls)) + 1];
    const wanted: [Answer, number, number][] = [
      ...(
        [
          [judged(V1), 0.0152, 6],
          [judged(V2), 0.0194, 8],
          [judged(V5), 0.9864, 5],
          [judged(V6), 0.0644, 6],
        ] as const
      ).map(([a, weight, place]): [Answer, number, number] => [a, weight, place]),
      [judged(V10, {}, [-1, 1, 0]), 0.0249, 11],
    ];
    for (const [a, weight, place] of wanted) {
      expect(worst(a)[0]).toBeCloseTo(weight, 4);
      expect(worst(a)[1]).toBe(place);
    }
  });

  test('V15: a band scatters more than its window', () => {
    const band = judged(V2, {}, [-1, 1], usualPrior(USUAL_MODEL, BAND_SCATTER));
    six(band.low, 1.81613);
    six(band.high, 2.77126);
    six(band.scatterToday, 0.218652);
  });

  test('V16: one pull a side is mostly belief', () => {
    const one = judged({
      pulls: [
        { setup: 0, round: 0, hours: 0, startC: 44 },
        { setup: 1, round: 1, hours: 1.25, startC: 46 },
      ],
      y: [547.3, 549.4],
    });
    six(one.estimate, 2.3);
    six(one.low, -0.43799);
    six(one.high, 5.03799);
  });

  test('one node of V2, and the plug-in node with what the width is made of', () => {
    const prior = usualPrior();
    const at = nodeAt(USUAL_MODEL, 2, 3, 7);
    expect(Math.log(prior[at]!)).toBeCloseTo(-3.930514, 6);
    expect([0, 5, 75, 150].map((m) => driftKernel(m / 60).toFixed(6))).toEqual([
      '6.805147',
      '6.786515',
      '6.092784',
      '4.673254',
    ]);
    const prepared = prepare(V2.pulls);
    const flat = new Float64Array(prior.length).fill(1);
    const { means, variances, weights, cases, logScale } = fitContrast(prepared, V2.y, [-1, 1], flat);
    const log = (i: number) => Math.log(weights[at * cases + i]!) + logScale;
    six(means[at * cases]!, 2.295694);
    six(variances[at * cases]!, 0.157571);
    six(log(0), 4.362089);
    six(means[at * cases + 5]!, 2.336863);
    six(variances[at * cases + 5]!, 0.178629);
    expect(log(5)).toBeCloseTo(0.027321, 5);
    const answer = answerOf(prepared, fitContrast(prepared, V2.y, [-1, 1], prior), { exact: true });
    const node = plugIn(prepared, [-1, 1], answer);
    six(answer.geometric.scatter, 0.187123);
    expect(node.variance).toBeCloseTo(0.030548, 6);
    expect(node.q95).toBeCloseTo(2.5193, 4);
    const { scatter, mounts, drift, heat } = node.shares;
    expect([scatter, mounts, drift, heat].map((share) => share.toFixed(3))).toEqual([
      '0.692',
      '0.172',
      '0.123',
      '0.013',
    ]);
  });
});

describe('a bay that remembers', () => {
  const tables = [V1, V2, V5, V6, V3].map(({ pulls, y }) => jobTable(prepare(pulls), y));
  const bay = learnedNoise(tables)!;
  const priors = priorsWith(bay);

  test('V12: what five jobs teach, and V2 under it', () => {
    expect(learnedNoise(tables.slice(0, 4))).toBeNull();
    six(bay.medians.scatter, 0.294566);
    six(bay.medians.mount, 0.110492);
    six(bay.medians.drift, 0.15298);
    const a = judged(V2, {}, [-1, 1], priors.prior);
    six(a.estimate, 2.29365);
    [a.low, a.high, a.low90, a.high90].forEach((end, i) => six(end, [1.82953, 2.75685, 1.92591, 2.66087][i]!));
    six(a.p, 4.30256e-6);
    six(a.scatterToday, 0.147524);
    six(a.geometric.mount, 0.100966);
    six(a.geometric.drift, 0.125202);
    six(a.logEvidence, 4.20921);
  });

  test('how unlike the bay a day is', () => {
    const unlike = ({ pulls, y }: Day) =>
      unlikeToday(priors, nodeWeights(fitContrast(prepare(pulls), y, [-1, 1], priors.prior)));
    six(unlike(V2), 0.02934);
    six(unlike(V6), 0.163908);
  });
});
