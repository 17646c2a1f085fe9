import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { busAnswer, busAnswered, busRequest, busRequested, PIDS, type BusChannel } from './j1979.ts';
import {
  implausibleWeather,
  nmeaChecksum,
  nmeaFields,
  SentenceError,
  weatherOfSentence,
  weatherSentence,
} from './nmea.ts';
import { registersOfValues, registersSpanned, USUAL_REGISTERS, valuesOfRegisters } from './registers.ts';
import { LineSplitter, LONGEST_LINE, rollerLine, rollerSample, SampleError } from './rollerLine.ts';

/** Decimal fractions scaled by ten and a hundred differ in their last bit. */
const rounded = (words: object) =>
  Object.fromEntries(Object.entries(words).map(([key, value]) => [key, Number((value as number).toFixed(9))]));

describe('weather station, NMEA 0183', () => {
  // The two sentences that every NMEA 0183 text prints; checksums 47 and 6A. Values from memory.
  test.each([
    '$GPGGA,123519,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,*47',
    '$GPRMC,123519,A,4807.038,N,01131.000,E,022.4,084.4,230394,003.1,W*6A',
  ])('the published checksum of %s', (sentence) => {
    expect(nmeaChecksum(sentence.slice(1, -3))).toBe(sentence.slice(-2));
    expect(weatherOfSentence(sentence)).toBeNull();
  });

  test('XDR in bar or pascal, and MDA in bar or inches of mercury', () => {
    const read = (body: string) => rounded(weatherOfSentence(`$${body}*${nmeaChecksum(body)}`)!);
    expect(read('WIXDR,P,1.01325,B,BARO,C,23.4,C,AIR,H,47.2,P,HUM')).toEqual({
      pressureHpa: 1013.25,
      airC: 23.4,
      relativeHumidity: 0.472,
    });
    expect(read('WIXDR,P,98650,P,BARO').pressureHpa).toBeCloseTo(986.5, 9);
    const mda = read('WIMDA,29.9213,I,1.0133,B,21.6,C,,,53.1,,11.2,C,,T,,M,,N,,M');
    expect(mda).toEqual({ pressureHpa: 1013.3, airC: 21.6, relativeHumidity: 0.531 });
    // 1 inHg (0 °C) = 3386.389 Pa, NIST SP 811.
    expect(read('WIMDA,29.92,I,,,21.6,C').pressureHpa).toBeCloseTo(1013.2076, 3);
  });

  test('a wrong checksum, a broken frame and a word for a number are refused', () => {
    expect(() => nmeaFields('$WIXDR,P,1.01325,B,BARO*00')).toThrow(/checksum 00 where/);
    expect(() => nmeaFields('WIXDR,P,1.0')).toThrow(SentenceError);
    const body = 'WIXDR,C,warm,C,AIR';
    expect(() => weatherOfSentence(`$${body}*${nmeaChecksum(body)}`)).toThrow('"warm" is no number');
  });

  test('one flipped bit anywhere in a sentence is noticed (property)', () => {
    const sentence = weatherSentence({ pressureHpa: 986.4, airC: 22.75, relativeHumidity: 0.47 });
    expect(rounded(weatherOfSentence(sentence)!)).toEqual({ pressureHpa: 986.4, airC: 22.75, relativeHumidity: 0.47 });
    fc.assert(
      fc.property(fc.integer({ min: 1, max: sentence.length - 1 }), fc.integer({ min: 0, max: 6 }), (at, bit) => {
        const flipped = String.fromCharCode(sentence.charCodeAt(at) ^ (1 << bit));
        // The case of the two checksum digits carries nothing.
        fc.pre(flipped.toUpperCase() !== sentence[at]!.toUpperCase() || at < sentence.length - 2);
        expect(() => nmeaFields(sentence.slice(0, at) + flipped + sentence.slice(at + 1))).toThrow(SentenceError);
      }),
      { numRuns: 300 },
    );
  });

  test('nonsense is called implausible with its value', () => {
    expect(implausibleWeather({ pressureHpa: 101.3 })).toBe('pressure 101 hPa');
    expect(implausibleWeather({ airC: 85 })).toBe('air 85.0 °C');
    expect(implausibleWeather({ relativeHumidity: 47 })).toBe('humidity 4700 %');
    expect(implausibleWeather({ pressureHpa: 986, airC: 22, relativeHumidity: 0.5 })).toBeNull();
  });
});

describe('vehicle bus, SAE J1979 service 01', () => {
  // Scalings of the standard: 0x0C (256A + B)/4; 0x0F and 0x05 A − 40; 0x0B A.
  test.each([
    ['410C1AF8', 'engine_rpm', 1726],
    ['41057B', 'coolant_c', 83],
    ['410F44', 'intake_c', 28],
    ['410BFF', 'manifold_kpa', 255],
    ['41 11 FF', 'throttle_fraction', 1],
  ] as const)('%s is %s %d', (line, channel, value) => {
    expect(busAnswered(line)).toEqual({ channel, value });
  });

  test('what is asked is what is answered, within the sensor’s own step (property)', () => {
    const steps: Record<BusChannel, number> = {
      engine_rpm: 0.125,
      intake_c: 0.5,
      coolant_c: 0.5,
      oil_c: 0.5,
      manifold_kpa: 0.5,
      throttle_fraction: 0.5 / 255,
    };
    fc.assert(
      fc.property(
        fc.constantFrom(...(Object.keys(PIDS) as BusChannel[])),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (channel, share) => {
          const value = channel === 'throttle_fraction' ? share : share * 200;
          expect(busRequested(busRequest(channel))).toBe(channel);
          const heard = busAnswered(busAnswer(channel, value))!;
          expect(heard.channel).toBe(channel);
          expect(Math.abs(heard.value - value)).toBeLessThanOrEqual(steps[channel] + 1e-9);
        },
      ),
    );
  });

  test('manifold pressure ends at 255 kPa; other answers say nothing', () => {
    expect(busAnswered(busAnswer('manifold_kpa', 310))!.value).toBe(255);
    for (const line of ['NO DATA', '410C1A', '7F0112', '41FF00', '', '410C1AF8ZZ'])
      expect(busAnswered(line)).toBeNull();
    expect(busRequested('0902')).toBeNull();
  });
});

describe('rollers, lines of JSON', () => {
  test('a sample goes out and comes back; a missing value is NaN', () => {
    const line = rollerLine(Date.UTC(2026, 4, 2, 9, 10, 11, 230), { engine_rpm: 3012, intake_c: NaN });
    expect(line).toBe('{"at":"2026-05-02T09:10:11.230Z","engine_rpm":3012,"intake_c":null}');
    const { atMs, channels } = rollerSample(line);
    expect(atMs).toBe(Date.UTC(2026, 4, 2, 9, 10, 11, 230));
    expect(channels).toEqual({ engine_rpm: 3012, intake_c: NaN });
  });

  test.each([
    ['{"engine_rpm":', 'not JSON'],
    ['[1]', 'not an object'],
    ['{"at":"noon"}', '"at" is no instant'],
    ['{"engine rpm":1}', 'a channel named'],
    ['{"engine_rpm":"3000"}', 'engine_rpm is no number'],
    [JSON.stringify(Object.fromEntries(Array.from({ length: 65 }, (_, i) => [`c${i}`, i]))), '64 at most'],
    ['{' + ' '.repeat(LONGEST_LINE) + '}', 'a line of'],
  ])('%.40s is refused with its reason', (line, reason) => {
    expect(() => rollerSample(line)).toThrow(reason);
  });

  test('arbitrary text never does worse than a reason (property)', () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.json()), (line) => {
        try {
          rollerSample(line);
        } catch (error) {
          expect(error).toBeInstanceOf(SampleError);
        }
      }),
    );
  });

  test('lines come out whole however the stream is cut (property); an endless one is dropped', () => {
    fc.assert(
      fc.property(
        fc.array(fc.stringMatching(/^[a-z0-9]{1,20}$/), { minLength: 1 }),
        fc.array(fc.nat(12), { maxLength: 40 }),
        (lines, cuts) => {
          const stream = lines.join('\n') + '\n';
          const splitter = new LineSplitter();
          const out: string[] = [];
          let at = 0;
          for (const cut of cuts) {
            out.push(...splitter.push(stream.slice(at, at + cut)));
            at += cut;
          }
          out.push(...splitter.push(stream.slice(at)));
          expect(out).toEqual(lines);
        },
      ),
    );
    const splitter = new LineSplitter();
    expect(splitter.push('x'.repeat(LONGEST_LINE + 1))).toEqual([]);
    expect(splitter.push('tail\nnext\n')).toEqual(['next']);
  });
});

describe('auxiliary channels, Modbus registers', () => {
  test('a float lies in two registers, high word first or last (123456.0 is 47F1 2000, IEEE 754)', () => {
    const map = { ...USUAL_REGISTERS, channels: [{ name: 'x', register: 0, kind: 'float32', scale: 1 }] } as const;
    expect(registersOfValues(map, { x: 123456 }).toString('hex')).toBe('47f12000');
    expect(valuesOfRegisters(map, Buffer.from('47f12000', 'hex'))).toEqual({ x: 123456 });
    const little = { ...map, wordOrder: 'little' } as const;
    expect(registersOfValues(little, { x: 123456 }).toString('hex')).toBe('200047f1');
    expect(valuesOfRegisters(little, Buffer.from('200047f1', 'hex'))).toEqual({ x: 123456 });
  });

  test('signed tenths and floats survive the usual map (property)', () => {
    expect(registersSpanned(USUAL_REGISTERS)).toBe(4);
    fc.assert(
      fc.property(
        fc.integer({ min: -32768, max: 32767 }),
        fc.float({ noNaN: true, min: -50, max: 50 }),
        (tenths, bar) => {
          const back = valuesOfRegisters(
            USUAL_REGISTERS,
            registersOfValues(USUAL_REGISTERS, { charge_c: tenths / 10, oil_bar: bar }),
          );
          expect(back.charge_c).toBeCloseTo(tenths / 10, 6);
          expect(back.oil_bar).toBeCloseTo(Math.fround(bar), 12);
        },
      ),
    );
  });
});
