import net from 'node:net';

/** An instrument of the tests' own: says what it is told, and can be unplugged. */
export class Device {
  #sockets = new Set<net.Socket>();
  #server: net.Server | null = null;
  port = 0;
  constructor(private readonly onLine: (line: string, socket: net.Socket) => void = () => undefined) {}

  async plug(): Promise<void> {
    this.#server = net.createServer((socket) => {
      this.#sockets.add(socket);
      socket.setEncoding('latin1');
      socket.on('error', () => undefined);
      socket.on('close', () => this.#sockets.delete(socket));
      socket.on('data', (chunk) =>
        String(chunk)
          .split('\r')
          .filter(Boolean)
          .forEach((line) => this.onLine(line, socket)),
      );
    });
    await new Promise<void>((ready) => this.#server!.listen(this.port, '127.0.0.1', ready));
    this.port = (this.#server.address() as net.AddressInfo).port;
  }

  async unplug(): Promise<void> {
    for (const socket of this.#sockets) socket.destroy();
    await new Promise((done) => (this.#server ? this.#server.close(done) : done(null)));
  }

  say(text: string | Buffer): void {
    for (const socket of this.#sockets) socket.write(text);
  }

  get heard(): boolean {
    return this.#sockets.size > 0;
  }
}
