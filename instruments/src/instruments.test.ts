import net from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { busAnswered, LineSplitter, rollerSample, weatherOfSentence, type RollerSample } from '@prandel/formats';
import { LiveCar, liveSpec } from '@prandel/simulator';
import { order, serveBench, StandIns, type InstrumentPorts } from './index.ts';

let standIns: StandIns;
let ports: InstrumentPorts;
let bench: Awaited<ReturnType<typeof serveBench>>;

beforeAll(async () => {
  standIns = new StandIns(new LiveCar(liveSpec(), Date.UTC(2026, 10, 23, 8, 30)));
  ports = await standIns.start();
  bench = await serveBench(standIns);
});
afterAll(async () => {
  await bench.close();
  await standIns.stop();
});

/** Listens to an instrument until enough lines were heard. */
async function lines(port: number, enough: (heard: string[]) => boolean, say?: string): Promise<string[]> {
  const socket = net.connect(port, '127.0.0.1');
  const splitter = new LineSplitter();
  const heard: string[] = [];
  socket.setEncoding('latin1');
  if (say) socket.write(say);
  await new Promise<void>((done, failed) => {
    const limit = setTimeout(() => failed(new Error(`heard only ${heard.length} lines`)), 20_000);
    socket.on('error', (error) => {
      clearTimeout(limit);
      failed(error);
    });
    socket.on('data', (chunk: string) => {
      heard.push(...splitter.push(chunk));
      if (!enough(heard)) return;
      clearTimeout(limit);
      done();
    });
  });
  socket.destroy();
  return heard;
}
const asked = async (body: object) => {
  const answer = await fetch(`http://127.0.0.1:${bench.port}`, { method: 'POST', body: JSON.stringify(body) });
  return { status: answer.status, body: (await answer.json()) as Record<string, unknown> };
};

describe('stand-ins speak the open protocols', () => {
  test('the weather station tells the bay’s air', async () => {
    const [sentence] = await lines(ports.weather, (heard) => heard.length >= 1);
    const weather = weatherOfSentence(sentence!)!;
    expect(weather.pressureHpa).toBeCloseTo(1003.9, 0);
    expect(weather.airC).toBeCloseTo(21.4, 0);
  });

  test('the vehicle bus answers what the car has, and "no data" for what it has not', async () => {
    const heard = await lines(ports.bus, (all) => all.length >= 4, '010C\r0105\r010B\r0902\r');
    expect(heard.slice(0, 2).map((line) => busAnswered(line))).toEqual([
      { channel: 'engine_rpm', value: 850 },
      { channel: 'coolant_c', value: 88 },
    ]);
    expect(heard.slice(2)).toEqual(['NO DATA', 'NO DATA']);
  });

  test('auxiliary channels come over Modbus function 03, byte by byte as the protocol says', async () => {
    const socket = net.connect(ports.aux, '127.0.0.1');
    // Transaction 7, protocol 0, six bytes, unit 1, function 03, register 100, four registers.
    socket.write(Buffer.from('000700000006010300640004', 'hex'));
    const answer = await new Promise<Buffer>((done) => socket.once('data', done));
    socket.destroy();
    expect(answer.subarray(0, 9).toString('hex')).toBe('00070000000b010308');
    expect(answer.readInt16BE(9) / 10).toBeCloseTo(27.4, 0);
    expect(answer.readFloatBE(13)).toBeCloseTo(2.1, 5);
  });

  test('a pull comes as 100 samples a second on the rollers’ clock, also when time runs fast', async () => {
    await asked({ speed: 20 });
    const heard = lines(ports.rollers, (all) => {
      const last = all.length > 400 ? rollerSample(all.at(-1)!) : null;
      return last !== null && last.channels.throttle_fraction! < 0.1 && last.channels.roller_rad_s! > 50;
    });
    expect((await asked({ pedal: true })).status).toBe(200);
    const samples = (await heard).map((line): RollerSample => rollerSample(line));
    const sweep = samples.filter((s) => s.channels.throttle_fraction! > 0.9);
    expect(sweep.length).toBeGreaterThan(400);
    for (let i = 1; i < sweep.length; i += 1) expect(sweep[i]!.atMs! - sweep[i - 1]!.atMs!).toBe(10);
    expect(sweep.at(-1)!.channels.engine_rpm).toBeGreaterThan(7000);
    await asked({ speed: 1 });
  });

  test('in slow time no sample is told twice', async () => {
    await asked({ speed: 60 });
    // The rollers have to run out before the pedal may be pressed again.
    await lines(ports.rollers, (all) => all.length > 0 && rollerSample(all.at(-1)!).channels.roller_rad_s! < 1);
    const heard = lines(
      ports.rollers,
      (all) => all.filter((line) => rollerSample(line).channels.throttle_fraction! > 0.9).length > 60,
    );
    expect((await asked({ speed: 0.2, pedal: true })).status).toBe(200);
    const sweep = (await heard).map(rollerSample).filter((s) => s.channels.throttle_fraction! > 0.9);
    for (let i = 1; i < sweep.length; i += 1) expect(sweep[i]!.atMs! - sweep[i - 1]!.atMs!).toBe(10);
    await asked({ speed: 1, pedal: false });
  });

  test('a pulled cable cuts the line; put back it answers on the same port', async () => {
    await asked({ plug: { weather: false } });
    await expect(lines(ports.weather, () => true)).rejects.toThrow(/ECONNREFUSED/);
    await asked({ plug: { weather: true } });
    expect(await lines(ports.weather, (heard) => heard.length >= 1)).toHaveLength(1);
  });

  test('orders that make no sense are refused in words', async () => {
    expect((await asked({ speed: 9999 })).body.refused).toBe('Speed runs from 0 to 400.');
    expect(await order(standIns, { skipSeconds: -4 })).toMatch(/Skip between/);
    const broken = await fetch(`http://127.0.0.1:${bench.port}`, { method: 'POST', body: '{' });
    expect(broken.status).toBe(400);
  });
});
