import net from 'node:net';
import { Logger } from '@nestjs/common';
import type { InstrumentFault, InstrumentState, InstrumentStatus } from '@prandel/core';
import { loggable } from '../../database/faults.ts';
import { deviceHostProblem, deviceLookup } from '../../security/deviceNetworks.ts';
import { hearingMs } from '../hearingClock.ts';
import type { InstrumentAddress, InstrumentKind } from '../../database/shapes.ts';

const RECONNECT_MS = 500;
const CONNECT_MS = 3000;
/** Without a word for this long a connected instrument counts as silent. */
const SILENT_S = 3;
/** More than any instrument sends: a bay's rollers at 1 kHz with 64 channels. What comes faster is taken as fast as it can be. */
const MOST_BYTES_A_SECOND = 4_000_000;
const PAUSE_MS = 250;
const KEEP_ALIVE_MS = 10_000;

/**
 * One instrument over TCP: connects, reads, and comes back by itself after a pulled cable. What the bytes mean is the
 * business of the links that extend it.
 */
export abstract class Link {
  abstract readonly kind: InstrumentKind;
  #address: InstrumentAddress;
  #socket: net.Socket | null = null;
  #retry: NodeJS.Timeout | null = null;
  #closed = false;
  #fault: InstrumentFault = { code: 'not-connected-yet' };
  /** When the last byte came, on the clock of hearing. */
  #heardMs = hearingMs();
  #flood = { since: 0, bytes: 0 };
  #odd: { fault: InstrumentFault; at: number } | null = null;
  #good: { values: Readonly<Record<string, number>>; at: number } | null = null;

  constructor(address: InstrumentAddress) {
    this.#address = address;
  }

  open(): void {
    this.#connect();
  }

  close(): void {
    this.#closed = true;
    if (this.#retry) clearTimeout(this.#retry);
    this.#socket?.destroy();
  }

  get status(): InstrumentStatus {
    const age = this.#good ? (hearingMs() - this.#good.at) / 1000 : null;
    const connected = this.#socket !== null;
    const odd = this.#odd && hearingMs() - this.#odd.at < 5000 ? this.#odd.fault : null;
    const state: InstrumentState = odd
      ? 'implausible'
      : connected && age !== null && age < SILENT_S
        ? 'connected'
        : 'silent';
    const fault = odd ?? (state === 'connected' ? null : connected ? ({ code: 'says-nothing' } as const) : this.#fault);
    return { kind: this.kind, state, fault, lastGood: this.#good?.values ?? null, ageS: age };
  }

  /** How long no byte came, milliseconds during which one could have been heard. */
  get silentMs(): number {
    return hearingMs() - this.#heardMs;
  }

  protected send(text: string): void {
    if (this.#socket?.writable) this.#socket.write(text, 'latin1');
  }

  /** A reading that makes sense, by channel. */
  protected good(values: Readonly<Record<string, number>>): void {
    this.#good = { values, at: hearingMs() };
  }

  /** A reading that does not. */
  protected odd(fault: InstrumentFault): void {
    this.#odd = { fault, at: hearingMs() };
  }

  /** Whatever a device sends, it ends neither the process nor another instrument. */
  protected guarded(work: () => void): void {
    try {
      work();
    } catch (error) {
      this.odd({ code: 'unreadable' });
      new Logger('Bay').error(loggable(error));
    }
  }

  /** Ends the connection; it is taken up again by itself. */
  protected drop(): void {
    this.#socket?.destroy();
  }

  /** A device that floods the bay waits: the connection itself holds it back, and the others are heard. */
  #holdBack(socket: net.Socket, bytes: number): void {
    const now = performance.now();
    if (now - this.#flood.since > 1000) this.#flood = { since: now, bytes: 0 };
    this.#flood.bytes += bytes;
    if (this.#flood.bytes < MOST_BYTES_A_SECOND || socket.isPaused()) return;
    this.odd({ code: 'too-fast', megabytesPerS: MOST_BYTES_A_SECOND / 1e6 });
    socket.pause();
    setTimeout(() => socket.resume(), PAUSE_MS);
  }

  /** Asks the device again and again while it is connected. */
  protected every(ms: number, work: () => void): NodeJS.Timeout {
    return setInterval(() => this.guarded(work), ms);
  }

  /** A socket that is about to connect. */
  protected onSocket(_: net.Socket): void {}
  protected onOpen(): void {}
  protected abstract onData(bytes: Buffer): void;
  protected onLost(): void {}

  #connect(): void {
    if (this.#closed) return;
    this.#heardMs = hearingMs();
    const { host, port } = this.#address;
    if (deviceHostProblem(host) !== null) {
      this.#fault = { code: 'not-allowed', host };
      return;
    }
    const socket = net.connect({ host, port, lookup: deviceLookup });
    socket.setNoDelay(true);
    socket.setKeepAlive(true, KEEP_ALIVE_MS);
    socket.setTimeout(CONNECT_MS, () => {
      if (socket.connecting) socket.destroy(new Error('no answer'));
    });
    this.onSocket(socket);
    let opened = false;
    socket.on('connect', () => {
      opened = true;
      this.#socket = socket;
      this.onOpen();
    });
    socket.on('data', (bytes: Buffer) => {
      this.#heardMs = hearingMs();
      this.#holdBack(socket, bytes.length);
      this.guarded(() => this.onData(bytes));
    });
    socket.on('error', () => {
      // How it failed would tell a port scanner what listens there.
      this.#fault = { code: 'no-connection', ...this.#address };
    });
    socket.on('close', () => {
      this.#socket = null;
      if (opened && !this.#closed) {
        this.#fault = { code: 'line-lost' };
        this.onLost();
      }
      if (!this.#closed) this.#retry = setTimeout(() => this.#connect(), RECONNECT_MS);
    });
  }
}
