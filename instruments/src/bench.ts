import http from 'node:http';
import type net from 'node:net';
import type { FanPlace } from '@prandel/simulator';
import { INSTRUMENTS, type InstrumentKind, type StandIns } from './standIns.ts';

/** What somebody at the bench may do to the simulated car and bay; members that are absent change nothing. */
export interface BenchOrder {
  readonly pedal?: boolean;
  readonly fan?: FanPlace;
  readonly doorOpen?: boolean;
  readonly weather?: { readonly airC: number; readonly pressureHpa: number };
  readonly fit?: string;
  readonly resetController?: boolean;
  readonly slipNext?: boolean;
  readonly speed?: number;
  /** Cables: true puts one in, false pulls it. */
  readonly plug?: Partial<Record<InstrumentKind, boolean>>;
  /** Lets this many seconds pass at once, at rest. */
  readonly skipSeconds?: number;
}

export const FASTEST = 400;

/** Carries out an order. @returns what could not be done, in words; null when all was */
export async function order(standIns: StandIns, asked: BenchOrder): Promise<string | null> {
  const { car } = standIns;
  if (asked.speed !== undefined) {
    if (!(asked.speed >= 0 && asked.speed <= FASTEST)) return `Speed runs from 0 to ${FASTEST}.`;
    standIns.speed = asked.speed;
  }
  if (asked.fan !== undefined) car.moveFan(asked.fan);
  if (asked.doorOpen !== undefined) car.openDoor(asked.doorOpen);
  if (asked.weather) car.shiftWeather(asked.weather.airC, asked.weather.pressureHpa);
  if (asked.fit !== undefined) car.fit(asked.fit);
  if (asked.resetController) car.resetController();
  if (asked.slipNext) car.slipOnNextPull();
  for (const kind of INSTRUMENTS) {
    const cable = asked.plug?.[kind];
    if (cable !== undefined) await standIns.plug(kind, cable);
  }
  if (asked.skipSeconds !== undefined) {
    if (!(asked.skipSeconds > 0 && asked.skipSeconds <= 86_400 * 30)) return 'Skip between a second and thirty days.';
    if (car.bench.pulling) return 'Time cannot be skipped in the middle of a pull.';
    car.advance(asked.skipSeconds);
  }
  if (asked.pedal === true) return car.press();
  if (asked.pedal === false) car.release();
  return null;
}

/** The bench as a small HTTP server on loopback: GET tells the state, POST carries out an order. */
export async function serveBench(standIns: StandIns, port = 0): Promise<{ port: number; close: () => Promise<void> }> {
  const server = http.createServer((request, response) => {
    const answer = (status: number, body: unknown) => {
      response.writeHead(status, { 'Content-Type': 'application/json' });
      response.end(JSON.stringify(body));
    };
    const state = () => ({ ...standIns.car.bench, speed: standIns.speed, plugged: standIns.plugged });
    if (request.method === 'GET') return answer(200, state());
    let text = '';
    request.on('data', (chunk: Buffer) => {
      text += chunk.toString('utf8');
      if (text.length > 10_000) request.destroy();
    });
    request.on('end', () => {
      const carryOut = async () => {
        const refused = await order(standIns, JSON.parse(text || '{}') as BenchOrder);
        answer(refused ? 409 : 200, refused ? { refused } : state());
      };
      carryOut().catch((error: Error) => answer(400, { refused: error.message }));
    });
  });
  await new Promise<void>((ready) => server.listen(port, '127.0.0.1', ready));
  return {
    port: (server.address() as net.AddressInfo).port,
    close: () =>
      new Promise((done) => {
        server.close(() => done());
        server.closeAllConnections();
      }),
  };
}
