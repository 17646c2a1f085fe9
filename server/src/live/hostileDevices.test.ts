import net from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { channelValues } from '@prandel/core';
import { FrameError, ModbusFrames, rollerSample } from '@prandel/formats';
import fc from 'fast-check';
import { LiveShop, pause } from '../test/liveShop.ts';

// Instruments that lie, flood, or say nothing, beside a bay that records. Loopback only; each for a second or so.
const live = new LiveShop();
const HOSTILE_MS = 1000;
let state = 4711;
const random = () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
const NOISE = Buffer.from(Array.from({ length: 64_000 }, () => Math.floor(random() * 256)));

beforeAll(async () => {
  await live.open(process.env.HOSTILE_DATABASE_URL);
  await live.act('open-job', { job: live.job });
  await live.act('start-round', { setup: 'A' });
});
afterAll(() => live.close());

/** A device that does one evil thing to whoever connects. */
async function evil(does: (socket: net.Socket) => void): Promise<{ port: number; close: () => Promise<void> }> {
  const sockets = new Set<net.Socket>();
  const server = net.createServer({ pauseOnConnect: false }, (socket) => {
    sockets.add(socket);
    socket.on('error', () => undefined);
    socket.on('close', () => sockets.delete(socket));
    does(socket);
  });
  await new Promise<void>((ready) => server.listen(0, '127.0.0.1', ready));
  return {
    port: (server.address() as net.AddressInfo).port,
    close: async () => {
      for (const socket of sockets) socket.destroy();
      await new Promise((done) => server.close(done));
    },
  };
}

/** Writes as fast as the other side takes it. */
function pour(socket: net.Socket, piece: () => Buffer | string): void {
  const more = () => {
    for (let k = 0; k < 64; k += 1) if (!socket.write(piece())) return;
    setImmediate(more);
  };
  socket.on('drain', more);
  more();
}

const LINE = JSON.stringify({
  at: '2026-05-02T09:10:11.230Z',
  engine_rpm: 3012,
  roller_rad_s: 60.1,
  throttle_fraction: 1,
});
const DEVICES: readonly [string, (socket: net.Socket) => void][] = [
  ['noise', (s) => pour(s, () => NOISE)],
  ['silence', () => undefined],
  ['a flood of lines', (s) => pour(s, () => `${LINE}\n`.repeat(200))],
  ['one line that never ends', (s) => pour(s, () => 'x'.repeat(60_000))],
  ['lines of nested JSON', (s) => pour(s, () => `${'['.repeat(4000)}\n`)],
  [
    'samples with a clock gone mad',
    (s) => pour(s, () => `{"at":"${pickDate()}","engine_rpm":1e308,"roller_rad_s":-1e308,"throttle_fraction":1}\n`),
  ],
  ['a socket that is closed at once', (s) => s.destroy()],
  ['a socket that is half closed', (s) => s.end('hello\r\n')],
  ['Modbus lengths that lie', (s) => pour(s, () => Buffer.from([0, 1, 0, 0, 255, 255, 1, 3, 250, 1, 2, 3]))],
  ['Modbus answers without end', (s) => pour(s, () => Buffer.from([0, 1, 0, 0, 0, 5, 1, 3, 2, 127, 255]))],
  ['NMEA with wrong sums and odd numbers', (s) => pour(s, () => '$WIXDR,P,1e999,B,BARO*00\r\n$WIXDR,C,NaN,C,T*12\r\n')],
];
const pickDate = () =>
  ['0001-01-01T00:00:00Z', '2099-01-01T00:00:00Z', '2026-05-02T09:10:11Z', 'x'][Math.floor(random() * 4)]!;

/** Every evil thing once on each of the four lines of some bay. */
const KINDS = ['rollers', 'weather', 'bus', 'aux'] as const;
const BAYS = DEVICES.flatMap((_, k) =>
  k % 4 === 0 ? [KINDS.map((__, line) => DEVICES[(k + line) % DEVICES.length]!)] : [],
).flatMap((four) => [four, [...four.slice(2), ...four.slice(0, 2)]]);

describe('beside hostile instruments', () => {
  test.each(BAYS.map((four) => [four.map(([name]) => name).join(', '), four] as const))(
    '%s: the bay beside records a whole pull',
    async (name, four) => {
      const devices = await Promise.all(four.map(([, does]) => evil(does)));
      const close = () => Promise.all(devices.map((device) => device.close().catch(() => undefined)));
      const { id } = await live.ask<{ id: string }>('POST', '/bays', {
        label: `Evil ${name}`.slice(0, 60),
        rollers: {},
        instruments: Object.fromEntries(KINDS.map((kind, k) => [kind, { host: '127.0.0.1', port: devices[k]!.port }])),
      });
      const before = process.memoryUsage.rss();
      await pause(HOSTILE_MS);
      await live.ready();
      const known = (await live.stored()).job.pulls.length;
      const sent = await live.pull(2);
      await live.until('stored', (s) => s.state === 'review' || s.state === 'between');
      const pull = (await live.stored()).job.pulls[known]!;
      const time = channelValues(pull, 'time_s')!;
      expect(time.length).toBeGreaterThanOrEqual(sent);
      for (let i = 1; i < time.length; i += 1) expect(time[i]! - time[i - 1]!).toBeCloseTo(0.01, 6);
      const panel = (await live.ask<{ id: string; status: { state: string }[] }[]>('GET', '/bays')).find(
        (b) => b.id === id,
      )!;
      expect(panel.status).toHaveLength(4);
      expect((process.memoryUsage.rss() - before) / 1e6).toBeLessThan(400);
      for (let k = 0; k < 50; k += 1) {
        const gone = await live.ask('DELETE', `/bays/${id}`).then(
          () => true,
          () => false,
        );
        if (gone) break;
        // A flood of full throttle is being recorded there; it ends when its line does.
        await close();
        await pause(300);
      }
      await close();
    },
  );

  test('arbitrary bytes give whole frames of the protocol or a refusal, and nothing is kept beyond one frame (property)', () => {
    const answer = fc
      .tuple(fc.integer({ min: 0, max: 65_535 }), fc.uint8Array({ minLength: 1, maxLength: 120 }))
      .map(([id, body]) => Buffer.from([id >> 8, id & 255, 0, 0, 0, body.length + 2, 1, 3, ...body]));
    fc.assert(
      fc.property(fc.array(answer, { maxLength: 8 }), fc.integer({ min: 1, max: 9 }), (frames, step) => {
        const all = Buffer.concat(frames);
        const splitter = new ModbusFrames();
        const out: Buffer[] = [];
        for (let at = 0; at < all.length; at += step) out.push(...splitter.push(all.subarray(at, at + step)));
        expect(Buffer.concat(out).equals(all)).toBe(true);
      }),
    );
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 7, maxLength: 400 }), (bytes) => {
        try {
          for (const frame of new ModbusFrames().push(Buffer.from(bytes)))
            expect(frame.length).toBeLessThanOrEqual(260);
        } catch (error) {
          expect(error).toBeInstanceOf(FrameError);
        }
      }),
    );
    for (const line of ['{"at":"0001-01-01T00:00:00Z"}', '{"time_s":1}', '{"__proto__":1}', '[]', '{"a":1e999}'])
      expect(() => rollerSample(line)).toThrow();
  });
});
