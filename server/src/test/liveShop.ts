import type { NestExpressApplication } from '@nestjs/platform-express';
import type { Job, LiveMessage, LiveSheet } from '@prandel/core';
import { busAnswer, busRequested, rollerLine, weatherSentence } from '@prandel/formats';
import WebSocket from 'ws';
import { createApp } from '../createApp.ts';
import { Database } from '../database/database.ts';
import { JobStore } from '../jobs/jobStore.ts';
import { LiveBays } from '../live/liveBays.ts';
import { Device } from './device.ts';
import { emptied, FIRST_START } from './shop.ts';

export const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

const QUESTION = {
  text: 'Does it help?',
  baselineSetup: 'A',
  candidateSetups: ['B'],
  measures: [{ id: 'windowMeanPower', meaningful: 1 }],
  windowRpm: [2200, 3500],
  partChangesIntakeTemperature: false,
  plan: [
    { setup: 'A', settle: 1, counted: 2 },
    { setup: 'B', settle: 1, counted: 2 },
  ],
};

/** A shop with one bay, real sockets for its instruments, and a job whose car can be driven. */
export class LiveShop {
  coolant = 90;
  clockMs = Date.UTC(2026, 4, 2, 9);
  omega = 0;
  bay = '';
  job = '';
  base = '';
  cookie = '';
  app!: NestExpressApplication;
  readonly rollers = new Device();
  readonly weather = new Device();
  readonly bus = new Device((line, socket) => {
    const channel = busRequested(line);
    const values: Record<string, number> = { intake_c: 29, coolant_c: this.coolant, oil_c: 95 };
    socket.write(`${channel && values[channel] !== undefined ? busAnswer(channel, values[channel]) : 'NO DATA'}\r`);
  });
  #talking: NodeJS.Timeout | undefined;

  async open(url: string | undefined): Promise<void> {
    process.env.DATABASE_URL = await emptied(url);
    await Promise.all([this.rollers.plug(), this.weather.plug(), this.bus.plug()]);
    const sentence = weatherSentence({ pressureHpa: 1003, airC: 22, relativeHumidity: 0.5 }) + '\r\n';
    this.#talking = setInterval(() => this.weather.say(sentence), 200);
    await this.start();
    await this.ask('POST', '/first-start', FIRST_START);
    this.bay = (await this.ask<{ id: string }>('POST', '/bays', this.baySettings('Bay 1'))).id;
    this.job = await this.newJob();
  }

  baySettings(label: string) {
    const at = (device: Device) => ({ host: '127.0.0.1', port: device.port });
    return {
      label,
      rollers: { kind: 'inertia', rollerInertiaKgM2: 26.4, elevationM: 90 },
      instruments: { rollers: at(this.rollers), weather: at(this.weather), bus: at(this.bus), aux: null },
    };
  }

  async newJob(title = 'Does it help?'): Promise<string> {
    const created = await this.ask<{ id: string }>('POST', '/jobs', {
      title,
      vehicle: { label: 'Tarn Vireo', engineToRollerRatio: 5.2 },
      bay: { label: 'Bay 1' },
      question: QUESTION,
      setups: ['A', 'B'].map((id) => ({ id, label: id, changes: [], state: { fan: '3' } })),
      day: { abortLimits: [{ channel: 'coolant_c', warn: 108, stop: 115, side: 'above' }] },
    });
    return created.id;
  }

  async start(): Promise<void> {
    this.app = await createApp();
    await this.app.get(LiveBays).startAll();
    await this.app.listen(0, '127.0.0.1');
    this.base = (await this.app.getUrl()).replace('[::1]', '127.0.0.1');
  }

  async close(): Promise<void> {
    clearInterval(this.#talking);
    await this.app.close();
    await Promise.all([this.rollers.unplug(), this.weather.unplug(), this.bus.unplug()]);
  }

  async ask<T>(method: string, path: string, body?: unknown): Promise<T> {
    const form = body instanceof FormData;
    const answer = await fetch(`${this.base}/api${path}`, {
      method,
      headers: { cookie: this.cookie, connection: 'close', ...(form ? {} : { 'content-type': 'application/json' }) },
      ...(body ? { body: form ? body : JSON.stringify(body) } : {}),
    });
    this.cookie ||= answer.headers.get('set-cookie')?.split(';')[0] ?? '';
    const text = await answer.text();
    if (!answer.ok) throw new Error(`${answer.status}: ${(JSON.parse(text) as { detail: string }).detail}`);
    return (text ? JSON.parse(text) : undefined) as T;
  }

  act(action: string, more: object = {}): Promise<void> {
    return this.ask('POST', `/bays/${this.bay}/actions`, { action, ...more });
  }

  sheet(): Promise<LiveSheet> {
    return this.ask('GET', `/bays/${this.bay}/sheet`);
  }

  async until(what: string, is: (s: LiveSheet) => boolean): Promise<LiveSheet> {
    for (let i = 0; i < 150; i += 1) {
      const now = await this.sheet();
      if (is(now)) return now;
      await pause(100);
    }
    const { state, reasons, instruments } = await this.sheet();
    throw new Error(`never ${what}: ${JSON.stringify({ state, reasons, instruments })}`);
  }

  /**
   * Lets the fake car run for a while at 100 Hz of its own clock, in steps that the server can follow.
   * @param heldRadS the rollers hold this speed, whatever the pedal does
   * @returns samples sent
   */
  async drive(seconds: number, throttle: number, heldRadS?: number): Promise<number> {
    let sent = 0;
    for (let s = 0; s < seconds; s += 0.1) {
      let lines = '';
      for (let i = 0; i < 10; i += 1) {
        this.clockMs += 10;
        this.omega = heldRadS ?? (throttle > 0.5 ? Math.max(35, this.omega + 0.12) : Math.max(0, this.omega - 1));
        const channels = { engine_rpm: this.omega * 50, roller_rad_s: this.omega, throttle_fraction: throttle };
        lines += rollerLine(this.clockMs, channels) + '\n';
        sent += 1;
      }
      this.rollers.say(lines);
      await pause(12);
    }
    return sent;
  }

  /** A whole pull: full throttle, then the run-out. @returns samples sent at full throttle */
  async pull(seconds = 3): Promise<number> {
    const sent = await this.drive(seconds, 1);
    await this.drive(1.2, 0);
    return sent;
  }

  /** Lets the bay's clock run on until the gate is open, in a round of A where none is going on. */
  async ready(): Promise<void> {
    for (let k = 0; k < 40; k += 1) {
      const { state } = await this.sheet();
      if (state === 'ready') return;
      // The sheet is told a few times a second: what was done may not be on it yet.
      if (state === 'review') await this.act('keep').catch(() => undefined);
      if (state === 'between') await this.act('start-round', { setup: 'A' }).catch(() => undefined);
      this.clockMs += 60_000;
      await this.drive(0.5, 0);
      await pause(300);
    }
    await this.until('ready', (s) => s.state === 'ready');
  }

  async stored(job = this.job): Promise<{ job: Job; version: number }> {
    return this.app.get(Database).inShop(await this.shopId(), (tx) => this.app.get(JobStore).read(tx, job, true));
  }

  async shopId(): Promise<string> {
    return (await this.app.get(Database).everyShop())[0]!;
  }

  async log(): Promise<string[]> {
    return (await this.ask<{ rows: { what: string }[] }>('GET', `/jobs/${this.job}/log`)).rows.map((r) => r.what);
  }

  /** Listens to the live channel from a number on; keeps every message. */
  async listen(since?: number): Promise<{ messages: LiveMessage[]; close: () => void }> {
    const from = since === undefined ? '' : `&since=${since}`;
    const socket = new WebSocket(`${this.base.replace('http', 'ws')}/api/live?bay=${this.bay}${from}`, {
      headers: { cookie: this.cookie },
    });
    const messages: LiveMessage[] = [];
    socket.on('message', (data: Buffer) => messages.push(JSON.parse(data.toString()) as LiveMessage));
    await new Promise((open, failed) => socket.on('open', open).on('error', failed));
    return { messages, close: () => socket.close() };
  }
}
