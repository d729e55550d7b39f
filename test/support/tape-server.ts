import { expect } from 'chai';
import { Client, dropFolder, newFolder, startServer, writeTape, type Server } from './server.ts';

/** When tapes of the tests begin. */
export const START = Date.parse('2026-03-02T09:00:00.000Z');
/** So many seconds after that, as the API writes times. */
export const at = (seconds: number): string => new Date(START + Math.round(seconds * 1000)).toISOString();

/** A server on a tape whose time is moved by hand, and may be killed. */
export class TapeServer {
  private server!: Server;
  api!: Client;
  private readonly file: string;
  private readonly folder = newFolder();

  constructor(rows: readonly string[]) {
    this.file = writeTape([...rows].sort((a, b) => (a.slice(0, 24) < b.slice(0, 24) ? -1 : 1)));
  }

  async start(): Promise<void> {
    this.server = await startServer({ KAVIX_MARKET: `tape:${this.file}`, KAVIX_CLOCK: 'manual', KAVIX_DATA: this.folder });
    this.api = await Client.signIn(this.server.address);
  }

  get address(): string {
    return this.server.address;
  }

  async end(): Promise<void> {
    await this.server.kill();
    dropFolder(this.folder);
  }

  async go(seconds: number): Promise<void> {
    const reply = await this.api.call('POST', '/api/clock', { advanceTo: at(seconds) });
    expect(reply.status).to.equal(200);
  }

  /** Killed and begun again; `between` may touch its files meanwhile. */
  async killed(between: (folder: string) => void = () => undefined): Promise<void> {
    await this.server.kill();
    between(this.folder);
    await this.start();
  }

  async made<T>(path: string, body: object): Promise<T> {
    const reply = await this.api.call('POST', path, body);
    expect(reply.status, JSON.stringify(reply.body)).to.be.oneOf([200, 201]);
    return reply.body;
  }

  async got<T>(path: string): Promise<T> {
    return (await this.api.call('GET', path)).body;
  }
}

/** Starts a server on a tape for a scene, and ends it whatever comes of that. */
export async function played<T extends TapeServer>(tape: T, scene: (tape: T) => Promise<void>): Promise<void> {
  await tape.start();
  try {
    await scene(tape);
  } finally {
    await tape.end();
  }
}
