import net from 'node:net';

/** A TCP server on loopback whose cable can be pulled and put back: same port, connections cut at once. */
export class SocketServer {
  readonly #onClient: (socket: net.Socket) => void;
  readonly #clients = new Set<net.Socket>();
  #server: net.Server | null = null;
  #port = 0;

  constructor(onClient: (socket: net.Socket) => void) {
    this.#onClient = onClient;
  }

  get port(): number {
    return this.#port;
  }

  get plugged(): boolean {
    return this.#server !== null;
  }

  get clients(): ReadonlySet<net.Socket> {
    return this.#clients;
  }

  /** Listens; port 0 takes a free one, which later plugs keep. */
  async plug(port = this.#port): Promise<void> {
    if (this.#server) return;
    const server = net.createServer((socket) => {
      this.#clients.add(socket);
      socket.on('close', () => this.#clients.delete(socket));
      socket.on('error', () => socket.destroy());
      this.#onClient(socket);
    });
    await new Promise<void>((ready, failed) => {
      server.once('error', failed);
      server.listen(port, '127.0.0.1', ready);
    });
    this.#server = server;
    this.#port = (server.address() as net.AddressInfo).port;
  }

  async unplug(): Promise<void> {
    const server = this.#server;
    this.#server = null;
    for (const client of this.#clients) client.destroy();
    await new Promise<void>((done) => (server ? server.close(() => done()) : done()));
  }

  broadcast(text: string): void {
    for (const client of this.#clients) if (client.writable) client.write(text);
  }
}
