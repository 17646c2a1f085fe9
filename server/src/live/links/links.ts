import { EventEmitter } from 'node:events';
import type net from 'node:net';
import type { LiveKey } from '@prandel/core';
import {
  busAnswered,
  busRequest,
  FrameError,
  implausibleWeather,
  LineSplitter,
  ModbusFrames,
  NO_DATA,
  registersSpanned,
  rollerSample,
  valuesOfRegisters,
  weatherOfSentence,
  type BusChannel,
  type RegisterMap,
  type RollerSample,
} from '@prandel/formats';
import Modbus from 'jsmodbus';
import type { BayInstruments, InstrumentAddress } from '../../database/shapes.ts';
import { Link } from './link.ts';

/** Rollers: newline-delimited JSON samples. */
export class RollersLink extends Link {
  readonly kind = 'rollers';
  readonly #lines = new LineSplitter();
  readonly #onSamples: (samples: RollerSample[]) => void;
  readonly #onLost: () => void;

  constructor(address: InstrumentAddress, onSamples: (samples: RollerSample[]) => void, onLost: () => void) {
    super(address);
    this.#onSamples = onSamples;
    this.#onLost = onLost;
  }

  protected onData(bytes: Buffer): void {
    const samples: RollerSample[] = [];
    for (const line of this.#lines.push(bytes.toString('utf8'))) {
      try {
        samples.push(rollerSample(line));
      } catch (error) {
        this.odd({ code: 'line-unreadable', detail: (error as Error).message });
      }
    }
    const last = samples.at(-1);
    if (!last) return;
    const { engine_rpm: rpm, roller_rad_s: roller } = last.channels;
    if (rpm !== undefined && (rpm < 0 || rpm > 20_000))
      this.odd({ code: 'not-believed', channel: 'engine_rpm', value: rpm });
    else this.good(known({ engine_rpm: rpm, roller_rad_s: roller }));
    this.#onSamples(samples);
  }

  protected override onLost(): void {
    this.#onLost();
  }
}

type Heard = (values: Readonly<Record<string, number>>) => void;

/** Weather station: NMEA 0183 XDR or MDA sentences. */
export class WeatherLink extends Link {
  readonly kind = 'weather';
  readonly #lines = new LineSplitter();
  readonly #heard: Heard;
  readonly #seaLevel: (pressureHpa: number) => boolean;

  /** @param seaLevel whether a pressure looks reduced to sea level at this bay's elevation */
  constructor(address: InstrumentAddress, heard: Heard, seaLevel: (pressureHpa: number) => boolean) {
    super(address);
    this.#heard = heard;
    this.#seaLevel = seaLevel;
  }

  protected onData(bytes: Buffer): void {
    for (const line of this.#lines.push(bytes.toString('latin1'))) {
      try {
        const weather = weatherOfSentence(line);
        if (!weather) continue;
        const wrong = implausibleWeather(weather);
        if (wrong) {
          this.odd({ code: 'weather-not-believed', detail: wrong });
          continue;
        }
        const { pressureHpa, airC, relativeHumidity } = weather;
        if (pressureHpa !== undefined && this.#seaLevel(pressureHpa))
          this.odd({ code: 'reduced-to-sea-level', pressureHpa });
        this.good(known({ airC, pressureHpa, relativeHumidity }));
        this.#heard({ ...weather });
      } catch (error) {
        this.odd({ code: 'sentence-unreadable', detail: (error as Error).message });
      }
    }
  }
}

const ASKED: readonly BusChannel[] = ['intake_c', 'coolant_c', 'oil_c', 'manifold_kpa'];
const BUS_MS = 100;
/** What the bay calls the channels that gates are made of. */
const LIVE_NAMES: Partial<Record<BusChannel, LiveKey>> = { intake_c: 'intakeC', coolant_c: 'coolantC', oil_c: 'oilC' };

/** Vehicle bus: SAE J1979 service 01, one request at a time; what the car does not have is asked ever more rarely. */
export class BusLink extends Link {
  readonly kind = 'bus';
  readonly #lines = new LineSplitter();
  readonly #heard: Heard;
  readonly #missing = new Map<BusChannel, number>();
  readonly #latest: Record<string, number> = {};
  #timer: NodeJS.Timeout | null = null;
  #waiting: BusChannel[] = [];
  #turn = 0;

  constructor(address: InstrumentAddress, heard: Heard) {
    super(address);
    this.#heard = heard;
  }

  protected override onOpen(): void {
    this.#waiting = [];
    this.#timer = this.every(BUS_MS, () => this.#ask());
  }

  protected override onLost(): void {
    if (this.#timer) clearInterval(this.#timer);
  }

  override close(): void {
    if (this.#timer) clearInterval(this.#timer);
    super.close();
  }

  #ask(): void {
    if (this.#waiting.length > 0 && this.#turn % 10 !== 0) {
      this.#turn += 1;
      return;
    }
    this.#turn += 1;
    const due = ASKED.filter((channel) => this.#turn % Math.min(100, (this.#missing.get(channel) ?? 0) ** 2 + 1) === 0);
    this.#waiting = [...due];
    if (due.length > 0) this.send(due.map((channel) => `${busRequest(channel)}\r`).join(''));
  }

  protected onData(bytes: Buffer): void {
    for (const line of this.#lines.push(bytes.toString('latin1'))) {
      const asked = this.#waiting.shift();
      const answer = busAnswered(line);
      if (!answer) {
        if (asked && line.trim() === NO_DATA) this.#missing.set(asked, (this.#missing.get(asked) ?? 0) + 1);
        continue;
      }
      const { channel, value } = answer;
      if (value < -40 || value > 250) {
        this.odd({ code: 'not-believed', channel, value });
        continue;
      }
      this.#missing.delete(channel);
      this.#latest[channel] = value;
      this.good({ ...this.#latest });
      const live = LIVE_NAMES[channel];
      this.#heard({ [channel]: value, ...(live ? { [live]: value } : {}) });
    }
  }
}

const AUX_MS = 200;

/** Auxiliary temperatures and pressures: Modbus TCP, function 03. */
export class AuxLink extends Link {
  readonly kind = 'aux';
  readonly #map: RegisterMap;
  readonly #heard: Heard;
  #client: InstanceType<typeof Modbus.client.TCP> | null = null;
  #pipe: EventEmitter | null = null;
  #frames = new ModbusFrames();
  #timer: NodeJS.Timeout | null = null;

  constructor(address: InstrumentAddress, map: RegisterMap, heard: Heard) {
    super(address);
    this.#map = map;
    this.#heard = heard;
  }

  /** jsmodbus is given whole frames only: it keeps whatever it cannot read. */
  protected override onSocket(socket: net.Socket): void {
    this.#frames = new ModbusFrames();
    const pipe = Object.assign(new EventEmitter(), {
      write: (payload: Buffer, done: (error?: Error) => void) =>
        socket.write(payload, (error) => done(error ?? undefined)),
    });
    for (const event of ['connect', 'close'] as const) socket.on(event, () => pipe.emit(event));
    this.#pipe = pipe;
    this.#client = new Modbus.client.TCP(pipe as unknown as net.Socket, this.#map.unit, 2000);
  }

  protected override onOpen(): void {
    let asking = false;
    this.#timer = this.every(AUX_MS, () => {
      const client = this.#client;
      if (asking || !client) return;
      asking = true;
      client
        .readHoldingRegisters(this.#map.base, registersSpanned(this.#map))
        .then(({ response }) => {
          const read = valuesOfRegisters(this.#map, response.body.valuesAsBuffer);
          const values = Object.fromEntries(Object.entries(read).filter(([, value]) => Number.isFinite(value)));
          this.good(values);
          this.#heard(values);
        })
        .catch((error: { message?: string }) =>
          this.odd({ code: 'no-registers', detail: error.message ?? 'no answer' }),
        )
        .finally(() => {
          asking = false;
        });
    });
  }

  protected onData(bytes: Buffer): void {
    try {
      for (const frame of this.#frames.push(bytes)) this.#pipe?.emit('data', frame);
    } catch (error) {
      if (!(error instanceof FrameError)) throw error;
      this.odd({ code: 'no-modbus', detail: error.message });
      this.drop();
    }
  }

  protected override onLost(): void {
    if (this.#timer) clearInterval(this.#timer);
  }

  override close(): void {
    if (this.#timer) clearInterval(this.#timer);
    super.close();
  }
}

/** The values that are there. */
function known(values: Readonly<Record<string, number | undefined>>): Record<string, number> {
  return Object.fromEntries(
    Object.entries(values).filter((entry): entry is [string, number] => entry[1] !== undefined),
  );
}

/** What a bay does with what its instruments say. */
export interface InstrumentHandlers {
  readonly samples: (samples: RollerSample[]) => void;
  readonly lost: () => void;
  readonly values: (values: Readonly<Record<string, number>>) => void;
  /** Whether a pressure looks reduced to sea level. */
  readonly reduced: (pressureHpa: number) => boolean;
}

/** One link for each instrument that a bay has. */
export function linksOf({ rollers, weather, bus, aux, registers }: BayInstruments, heard: InstrumentHandlers): Link[] {
  return [
    ...(rollers ? [new RollersLink(rollers, heard.samples, heard.lost)] : []),
    ...(weather ? [new WeatherLink(weather, heard.values, heard.reduced)] : []),
    ...(bus ? [new BusLink(bus, heard.values)] : []),
    ...(aux ? [new AuxLink(aux, registers, heard.values)] : []),
  ];
}
