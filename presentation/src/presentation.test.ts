import { describe, expect, test } from '@jest/globals';
import { fromSi, judgeJob, WATTS_PER_HP, type CandidateVerdict } from '@prandel/core';
import { newJob, newPull, newSetup } from '@prandel/core';
import fc from 'fast-check';
import {
  channelPanelSvg,
  fadeSvg,
  axisOver,
  compareGeometry,
  compareOption,
  dayTrackSvg,
  gainInterval,
  interval,
  matters,
  nextStep,
  plain,
  resultSentence,
  rpmAt,
  setupStyles,
  shortGain,
  shown,
  signed,
  spread,
  stripCells,
  sureWords,
  USUAL_UNITS,
  verifiedRange,
  xOf,
  yOf,
  type ComparePart,
  type CompareView,
} from './index.ts';

const RPM = Float64Array.from({ length: 51 }, (_, i) => 2500 + 100 * i);
const powerAt = (rpm: number) => 60_000 + 40_000 * Math.sin((rpm - 2000) / 2600);
function job(gain: (rpm: number) => number, returnCheck = true) {
  const round = (setup: string, from: number, n: number) =>
    Array.from({ length: n }, (_, i) => ({
      ...newPull(`${setup}${i + 1}`, setup, i + 1),
      status: i === 0 ? ('settle' as const) : ('counted' as const),
      startedAt: new Date(Date.UTC(2026, 4, 2, 8) + (from + 5 * i) * 60_000).toISOString(),
      pressureHpa: 990,
      airC: 25,
      relativeHumidity: 0,
      intakeStartC: 36 + i,
      gear: '4',
      channels: [
        { name: 'engine_rpm', values: RPM },
        {
          name: 'wheel_power_w',
          values: RPM.map(
            (r) =>
              powerAt(r) *
              (1 + (setup === 'B' ? gain(r) : 0) / 100) *
              (1 + 0.002 * Math.sin(5 * i + (setup === 'R' ? 0.01 : 0))),
          ),
        },
      ],
    }));
  return {
    ...newJob('QG-1', 'Does it help?'),
    timeZone: 'UTC',
    setups: [
      newSetup('A', 'as arrived'),
      newSetup('B', 'electric fan', 'A'),
      ...(returnCheck ? [{ ...newSetup('R', 'return'), returnsTo: 'A' }] : []),
    ],
    pulls: [...round('A', 0, 4), ...round('B', 75, 4), ...(returnCheck ? round('R', 150, 3) : [])],
    question: { ...newJob('', '').question, windowRpm: [3000, 7000] as const },
  };
}
const judged = (gain: (rpm: number) => number, returnCheck = true) => {
  const own = job(gain, returnCheck);
  const judgement = judgeJob(own);
  return { own, judgement, v: judgement.verdicts[0]! };
};
const rising = judged((rpm) => (rpm > 4600 ? 4 : -4));
const viewOf = ({ own, judgement }: typeof rising, more: Partial<CompareView> = {}): CompareView => ({
  job: own,
  judgement,
  candidate: 'B',
  measure: 'windowMeanPower',
  hiddenSetups: new Set(),
  hiddenPulls: new Set(),
  showPulls: true,
  showSetAside: false,
  units: USUAL_UNITS,
  size: { width: 826, power: 198, torque: 104, ribbon: 112 },
  fontSize: 11,
  ...more,
});

describe('figures', () => {
  test.each([
    [0, '0.0', '0.0'],
    [-0.04, '0.0', '0.0'],
    [2.55, '2.5', '+2.5'],
    [-1.25, '\u22121.3', '\u22121.3'],
    [NaN, '–', '–'],
    [null, '–', '–'],
  ])('%p is written %s, as a difference %s', (value, text, difference) => {
    expect(plain(value, 1)).toBe(text);
    expect(signed(value)).toBe(difference);
  });

  test('the half-width rounds up, and the ends derive from what is printed', () => {
    expect(interval(2.61, 1.83, 3.39)).toEqual({ estimate: '+2.6', half: '0.8', low: '+1.8', high: '+3.4' });
    expect(interval(0.02, -0.41, 0.45)).toEqual({ estimate: '0.0', half: '0.5', low: '\u22120.5', high: '+0.5' });
    const number = (text: string) => Number(text.replace('\u2212', '-'));
    fc.assert(
      fc.property(
        fc.double({ min: -50, max: 50, noNaN: true }),
        fc.double({ min: 0.01, max: 9, noNaN: true }),
        (estimate, half) => {
          const words = interval(estimate, estimate - half, estimate + half);
          // Rounded outwards, an end never crosses a zero that the interval itself does not reach.
          const [high, low] = [
            number(words.estimate) + number(words.half),
            number(words.estimate) - number(words.half),
          ];
          expect(number(words.high)).toBeCloseTo(estimate + half <= 0 ? Math.min(0, high) : high, 9);
          expect(number(words.low)).toBeCloseTo(estimate - half >= 0 ? Math.max(0, low) : low, 9);
          expect(number(words.half)).toBeGreaterThanOrEqual(half - 1e-9);
        },
      ),
      { examples: [[0.30000000010000005, 0.3000000001]] },
    );
  });

  test('a value and its unit follow the person', () => {
    expect(shown(110_000, 'kW')).toBe('110.0');
    expect(shown(110_000, 'hp')).toBe((110_000 / WATTS_PER_HP).toFixed(1));
    expect(shown(180.4, 'N·m')).toBe('180');
    const kw = gainInterval(rising.v.gain!, USUAL_UNITS);
    const hp = gainInterval(rising.v.gain!, { ...USUAL_UNITS, power: 'hp' });
    expect([kw.unit, hp.unit]).toEqual(['kW', 'hp']);
    expect(hp.estimate).toBe(signed(Math.round(fromSi(rising.v.gain!.value, 'hp') * 10) / 10));
  });
});

describe('sentences a customer reads', () => {
  const sentence = (gain: number, returnCheck = true) => {
    const { own, judgement, v } = judged(() => gain, returnCheck);
    return [v.verdict, resultSentence(own, v, USUAL_UNITS, judgement.window), nextStep(v)] as const;
  };
  test('each verdict says what it claims and nothing more', () => {
    expect(sentence(4)).toEqual([
      'verified-gain',
      expect.stringMatching(/between 3000 and 7000 rpm the car makes between \d\.\d and \d\.\d kW more/),
      '',
    ]);
    expect(sentence(-4)).toEqual(['verified-loss', expect.stringMatching(/makes less .* between \u2212\d/), '']);
    expect(sentence(0)).toEqual([
      'no-meaningful-change',
      expect.stringContaining('inside the ±1 % that was agreed'),
      '',
    ]);
    // What is said to lie inside does: the 90 % interval that the rule looks at, not the wider one.
    const ends = /between ([^ ]+) and ([^ ]+) %, inside/.exec(sentence(0)[1])!.slice(1);
    for (const end of ends) expect(Math.abs(Number(end.replace('\u2212', '-')))).toBeLessThanOrEqual(1);
    const [open, words, next] = sentence(0.6, false);
    expect(open).toBe('not-resolved');
    expect(words).toContain('cannot tell');
    expect(next).toMatch(/^About \d+ more counted pulls \(.*\) would settle it about every second time\.$/);
  });

  test('a question about the peak is answered about the peak', () => {
    const { own, judgement, v } = judged(() => 4);
    const peak = resultSentence(own, { ...v, measure: 'peakPower' }, USUAL_UNITS, judgement.window);
    expect(peak).toMatch(/^At full throttle, at its peak, the car makes between/);
    expect(peak).not.toContain('rpm');
  });

  test('a cooler that works is told in degrees, with no word about power', () => {
    const { own, v } = judged(() => 4);
    const gain = { ...v.gain!, unit: '°C' as const, value: -16.2, lowValue: -24.4, highValue: -8 };
    const none = { percent: null, lowPercent: null, highPercent: null, low90Percent: null, high90Percent: null };
    const measure = 'start(intake_c)';
    const cooled: CandidateVerdict = {
      ...v,
      measure,
      meaningful: 3,
      gain: { ...gain, ...none },
      bands: [],
      verdict: 'verified-gain',
    };
    expect(resultSentence(own, cooled, USUAL_UNITS, [3000, 7000])).toBe(
      'The intake air at the start of a pull is between 8.0 and 24.4 °C cooler than before.',
    );
    const warmed = { ...cooled.gain!, value: 4, lowValue: 1.5, highValue: 6.5 };
    expect(resultSentence(own, { ...cooled, verdict: 'verified-loss', gain: warmed }, USUAL_UNITS, null)).toBe(
      'The intake air at the start of a pull is between 1.5 and 6.5 °C hotter than before.',
    );
    const inF = { ...USUAL_UNITS, temperature: '°F' as const };
    expect(sureWords(cooled, inF)).toBe('95 % sure it lies between \u221244.0 and \u221214.4 °F');
    for (const verdict of ['not-resolved', 'no-meaningful-change', 'not-comparable'] as const) {
      const words = resultSentence(own, { ...cooled, verdict }, USUAL_UNITS, [3000, 7000]);
      expect(words.replace('90 % certainty', '')).not.toMatch(/throttle|wheels|rpm| %|kW/);
    }
    expect([verifiedRange(cooled), shortGain(cooled.gain!, USUAL_UNITS)]).toEqual(['', '\u221216.2 °C']);
    expect([matters(measure, 3, USUAL_UNITS), matters('windowMeanPower', 1, USUAL_UNITS)]).toEqual(['3.0 °C', '1 %']);
  });

  test('a pair that cannot be compared claims nothing', () => {
    const { own, judgement, v } = judged(() => 4);
    const lost: CandidateVerdict = { ...v, verdict: 'not-comparable' };
    expect(resultSentence(own, lost, USUAL_UNITS, judgement.window)).toContain('no result is claimed');
    expect(verifiedRange(lost)).toBe('');
    expect(nextStep(lost)).toBe('Repeat both sides under the same conditions.');
    expect(stripCells(lost)).toEqual([{ fromRpm: 2500, toRpm: 7500, verdict: 'not-comparable', verified: false }]);
    expect(sureWords({ ...v, gain: null }, USUAL_UNITS)).toBe('no estimate');
  });

  test('stretches are named with their sign', () => {
    expect(verifiedRange(rising.v)).toMatch(/a loss from 2500 to 4500 rpm and a gain from 4500 to 7500 rpm\.$/);
  });
});

describe('the comparison chart', () => {
  const g = compareGeometry(viewOf(rising));

  test('engine speed and pixels are inverse, and every curve lies inside its panel', () => {
    for (let rpm = g.rpmFrom; rpm <= g.rpmTo; rpm += 250) expect(rpmAt(g, xOf(g, rpm))).toBeCloseTo(rpm, 6);
    for (const { power } of rising.judgement.setups) {
      for (const p of power.values) {
        const y = yOf(g.power, fromSi(p, 'kW'));
        expect(y).toBeGreaterThanOrEqual(g.power.top);
        expect(y).toBeLessThanOrEqual(g.power.top + g.power.height);
      }
    }
  });

  test('the ribbon always contains zero and the whole interval', () => {
    const { ribbon } = rising.v;
    for (const [i, baseline] of ribbon!.baseline.entries())
      for (const percent of [0, ribbon!.lowPercent[i]!, ribbon!.highPercent[i]!]) {
        const value = fromSi((baseline * percent) / 100, 'kW');
        expect(value).toBeGreaterThanOrEqual(g.ribbon.min);
        expect(value).toBeLessThanOrEqual(g.ribbon.max);
      }
  });

  interface Drawn {
    readonly renderItem: () => {
      children: { name: string; shape: { points: number[][] }; style: { opacity?: number } }[];
    };
  }
  const shapesOf = (view: CompareView, part?: ComparePart) =>
    (compareOption(view, part).option.series as unknown as Drawn[]).map((s) => s.renderItem().children);

  test('a line per counted pull and axis, and none for what is switched off', () => {
    const lines = (view: CompareView) => {
      const thin = shapesOf(view).flatMap((shapes) => shapes.filter(({ name }) => name === 'pull'));
      for (const { style } of thin) expect(style.opacity).toBe(0.34);
      return thin.length;
    };
    expect(lines(viewOf(rising))).toBe(2 * 8);
    expect(lines(viewOf(rising, { hiddenSetups: new Set(['R']) }))).toBe(2 * 6);
    expect(lines(viewOf(rising, { hiddenPulls: new Set(['A2']) }))).toBe(2 * 7);
    expect(lines(viewOf(rising, { showPulls: false }))).toBe(0);
  });

  test('a thin line passes every point of its pull by no more than a quarter of a pixel', () => {
    const view = viewOf(rising);
    const thin = shapesOf(view)[0]!.filter(({ name }) => name === 'pull');
    const pulls = rising.judgement.pulls.filter((p) => p.status === 'counted');
    let [drawn, all] = [0, 0];
    thin.forEach(({ shape: { points } }, i) => {
      const { power } = pulls[i]!;
      drawn += points.length;
      all += power.values.length;
      power.values.forEach((watts, k) => {
        const [x, y] = [xOf(g, (power.first + k) * 25), yOf(g.power, fromSi(watts, 'kW'))];
        const after = Math.max(
          1,
          points.findIndex((p) => p[0]! >= x - 1e-9),
        );
        const [[x0, y0], [x1, y1]] = [points[after - 1]!, points[after]!] as [[number, number], [number, number]];
        const off = Math.abs((x1 - x0) * (y0 - y) - (x0 - x) * (y1 - y0)) / Math.hypot(x1 - x0, y1 - y0);
        expect(off).toBeLessThanOrEqual(0.25 + 1e-9);
      });
    });
    expect(drawn).toBeLessThan(all);
  });

  test('the two halves over each other are the whole', () => {
    const view = viewOf(rising);
    const marks = (part?: ComparePart) =>
      ((compareOption(view, part).option.graphic as { elements: object[] }).elements ?? []).map((m) =>
        JSON.stringify(m),
      );
    expect([...shapesOf(view, 'curves'), ...shapesOf(view, 'difference')]).toEqual(shapesOf(view));
    expect([...marks('curves'), ...marks('difference')].sort()).toEqual(marks().sort());
  });

  test('the crossover is found where the gain changes sign', () => {
    expect(rising.v.ribbon!.crossovers).toHaveLength(1);
    expect(Math.abs(rising.v.ribbon!.crossovers[0]! - 4600)).toBeLessThan(100);
  });

  test('end labels of up to seven setups keep their order and their pitch inside the panel (property)', () => {
    const heights = fc.array(fc.double({ min: -40, max: 240, noNaN: true }), { minLength: 1, maxLength: 7 });
    fc.assert(
      fc.property(heights, fc.integer({ min: 40, max: 200 }), (wanted, bottom) => {
        const placed = spread(wanted, 17, [8, bottom]);
        const order = wanted.map((_, i) => i).sort((a, b) => wanted[a]! - wanted[b]!);
        const pitch = Math.min(17, (bottom - 8) / Math.max(1, wanted.length - 1));
        expect(placed[order[0]!]!).toBeGreaterThanOrEqual(8 - 1e-9);
        expect(placed[order.at(-1)!]!).toBeLessThanOrEqual(bottom + 1e-9);
        for (let k = 1; k < order.length; k += 1)
          expect(placed[order[k]!]! - placed[order[k - 1]!]!).toBeGreaterThan(pitch - 1e-6);
      }),
    );
  });

  test.each([
    [0, 122, 5, 25],
    [-2.1, 4.3, 4, 2],
    [0.1, 0.9, 4, 0.2],
  ])('an axis from %d to %d steps evenly', (low, high, ticks, step) => {
    const axis = axisOver(low, high, ticks);
    expect(axis.min).toBeLessThanOrEqual(low);
    expect(axis.max).toBeGreaterThanOrEqual(high);
    expect(axis.step).toBeCloseTo(step, 9);
  });

  test('a return check wears the hue of its setup, hollow', () => {
    const looks = setupStyles(rising.own.setups);
    expect(looks.get('R')).toMatchObject({ line: looks.get('A')!.line, hollow: true });
    expect(looks.get('B')!.line).not.toBe(looks.get('A')!.line);
  });
});

test('the day track draws every pull, and escapes what people typed', () => {
  const own = { ...rising.own, setups: rising.own.setups.map((s) => (s.id === 'B' ? { ...s, label: '<b>&' } : s)) };
  const svg = dayTrackSvg(own, rising.judgement, 800, 11);
  expect(svg.match(/<rect[^>]*height="11"/g)).toHaveLength(own.pulls.length);
  expect(svg).toContain('&lt;b&gt;&amp;');
  expect(svg).not.toContain('<b>');
});

test('the pictures of channels and roll-ons escape the names that a file brings', () => {
  const evil = 'x"><b onload=1>_c';
  const own = job(() => 4);
  const pulls = own.pulls.map((p) => ({
    ...p,
    setupId: p.setupId === 'B' ? '<i>' : p.setupId,
    channels: [...p.channels, { name: evil, values: p.channels[0]!.values.map((n) => n / 100) }],
  }));
  const setups = own.setups.map((s) => (s.id === 'B' ? { ...s, id: '<i>' } : s));
  const named = { ...own, pulls, setups, question: { ...own.question, candidateSetups: ['<i>'] } };
  const view = {
    ...{ job: named, judgement: judgeJob(named), hiddenSetups: new Set<string>(), showPulls: true, units: USUAL_UNITS },
    ...{ rpm: [3000, 6000] as const, width: 800, height: 120, fontSize: 11 },
  };
  for (const svg of [
    channelPanelSvg(view, evil),
    fadeSvg(view, 'power', USUAL_UNITS),
    fadeSvg(view, evil, USUAL_UNITS),
  ]) {
    expect(svg).toContain('&lt;i');
    expect(svg).not.toMatch(/<b |<i>/);
  }
});
