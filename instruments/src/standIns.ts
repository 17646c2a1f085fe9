import net from 'node:net';
import {
  busAnswer,
  busRequested,
  LineSplitter,
  NO_DATA,
  registersOfValues,
  registersSpanned,
  rollerLine,
  USUAL_REGISTERS,
  weatherSentence,
  type BusChannel,
} from '@prandel/formats';
import type { LiveCar, LiveMoment } from '@prandel/simulator';
import Modbus from 'jsmodbus';
import { SocketServer } from './socketServer.ts';

export const INSTRUMENTS = ['rollers', 'weather', 'bus', 'aux'] as const;
export type InstrumentKind = (typeof INSTRUMENTS)[number];
export type InstrumentPorts = Record<InstrumentKind, number>;

const TICK_MS = 20;
const RESTING_LINE_MS = 100;
const WEATHER_MS = 500;

/**
 * The four instruments of a bay as small TCP servers that let a simulated car speak the open protocols: rollers (lines of
 * JSON), weather station (NMEA 0183), vehicle bus (SAE J1979 as hex lines), auxiliary channels (Modbus TCP). Time can be
 * made to run faster; every sample of a sweep is still sent.
 */
export class StandIns {
  readonly car: LiveCar;
  readonly #servers: Record<InstrumentKind, SocketServer>;
  readonly #holding = Buffer.alloc((USUAL_REGISTERS.base + registersSpanned(USUAL_REGISTERS)) * 2);
  /** Channels beside the usual ones that the rollers send with every sample. */
  readonly #extraChannels: number;
  #timer: NodeJS.Timeout | null = null;
  #last: LiveMoment;
  #lineAt = 0;
  #weatherAt = 0;
  #ticked = 0;
  speed = 1;
  #sentAtMs = -Infinity;

  constructor(car: LiveCar, extraChannels = 0) {
    this.car = car;
    this.#extraChannels = extraChannels;
    this.#last = car.moment();
    // jsmodbus wants a net.Server of its own; this one never listens and is handed our connections.
    const modbus = new net.Server();
    new Modbus.server.TCP(modbus, { holding: this.#holding });
    this.#servers = {
      rollers: new SocketServer(() => undefined),
      weather: new SocketServer(() => undefined),
      bus: new SocketServer((socket) => this.#answerBus(socket)),
      aux: new SocketServer((socket) => modbus.emit('connection', socket)),
    };
  }

  async start(ports: Partial<InstrumentPorts> = {}): Promise<InstrumentPorts> {
    for (const kind of INSTRUMENTS) await this.plug(kind, true, ports[kind] ?? 0);
    this.#ticked = performance.now();
    this.#timer = setInterval(() => this.#tick(), TICK_MS);
    return Object.fromEntries(INSTRUMENTS.map((kind) => [kind, this.#servers[kind].port])) as InstrumentPorts;
  }

  async stop(): Promise<void> {
    if (this.#timer) clearInterval(this.#timer);
    for (const kind of INSTRUMENTS) await this.#servers[kind].unplug();
  }

  get plugged(): Record<InstrumentKind, boolean> {
    return Object.fromEntries(INSTRUMENTS.map((kind) => [kind, this.#servers[kind].plugged])) as Record<
      InstrumentKind,
      boolean
    >;
  }

  /** Puts an instrument's cable in, or pulls it. */
  async plug(kind: InstrumentKind, cable: boolean, port?: number): Promise<void> {
    const server = this.#servers[kind];
    if (cable) await server.plug(port);
    else await server.unplug();
  }

  #tick(): void {
    const now = performance.now();
    // A machine that was busy catches up, within reason; time never jumps by more than a quarter of a second.
    const seconds = (Math.min(250, now - this.#ticked) / 1000) * this.speed;
    this.#ticked = now;
    const moments = this.car.advance(seconds);
    this.#last = moments.at(-1)!;
    const moving = moments.length > 1 || this.#last.rollerRadS > 0;
    // In slow time a tick may be too short for a new sample; the old one is then not sent again.
    const sentAt = this.#sentAtMs;
    const fresh = moving ? moments.filter((m) => m.atMs > sentAt) : moments;
    if (moving ? fresh.length > 0 : now - this.#lineAt >= RESTING_LINE_MS) {
      this.#lineAt = now;
      this.#sentAtMs = this.#last.atMs;
      this.#servers.rollers.broadcast(fresh.map((m) => this.#line(m)).join(''));
    }
    if (now - this.#weatherAt >= WEATHER_MS) {
      this.#weatherAt = now;
      this.#servers.weather.broadcast(`${weatherSentence(this.#last.air)}\r\n`);
    }
    registersOfValues(USUAL_REGISTERS, {
      charge_c: this.#last.chargeC,
      exhaust_c: this.#last.exhaustC,
      oil_bar: this.#last.oilBar,
    }).copy(this.#holding, USUAL_REGISTERS.base * 2);
  }

  #line(m: LiveMoment): string {
    const round = (value: number, digits: number) => Number(value.toFixed(digits));
    const extra = Object.fromEntries(
      Array.from({ length: this.#extraChannels }, (_, i) => [`extra${i}_c`, round(m.intakeC + i, 2)]),
    );
    return (
      rollerLine(m.atMs, {
        engine_rpm: round(m.engineRpm, 1),
        roller_rad_s: round(m.rollerRadS, 5),
        throttle_fraction: round(m.throttle, 3),
        ...extra,
      }) + '\n'
    );
  }

  #answerBus(socket: net.Socket): void {
    const splitter = new LineSplitter();
    socket.setEncoding('latin1');
    socket.on('data', (chunk: string) => {
      for (const line of splitter.push(chunk)) {
        const channel = busRequested(line);
        const value = channel ? this.#busValue(channel) : null;
        socket.write(`${channel && value !== null ? busAnswer(channel, value) : NO_DATA}\r`);
      }
    });
  }

  #busValue(channel: BusChannel): number | null {
    const m = this.#last;
    return {
      engine_rpm: m.engineRpm,
      intake_c: m.intakeC,
      coolant_c: m.coolantC,
      oil_c: m.oilC,
      manifold_kpa: m.manifoldKpa,
      throttle_fraction: m.throttle,
    }[channel];
  }
}
