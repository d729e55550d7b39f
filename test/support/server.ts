import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { answerProblem } from './answers.ts';

const PROGRAM = resolve(import.meta.dirname, '../../dist/start/production.mjs');
const READY_WITHIN_MS = 60_000;
const STOPPED_WITHIN_MS = 10_000;
const ANSWERED_WITHIN_MS = 60_000;

/** Servers that are still running: whatever a run started is ended at its end, also after a failure. */
const running = new Set<ChildProcess>();
const folders = new Set<string>();
process.on('exit', () => {
  for (const child of running) child.kill('SIGKILL');
  for (const folder of folders) dropFolder(folder);
});

export interface Server {
  readonly address: string;
  readonly folder: string;
  readonly port: number;
  readonly process: ChildProcess;
  /** What it printed so far, both streams. */
  output(): string;
  stop(): Promise<number | null>;
  kill(): Promise<void>;
}

/** A new folder, dropped with `dropFolder` or at the end of the run. */
export function newFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'kavix-data-'));
  folders.add(folder);
  return folder;
}

export function dropFolder(folder: string): void {
  rmSync(folder, { recursive: true, force: true });
  folders.delete(folder);
}

/** Rows of a tape on which an instrument opens at nine: 500 at each of six prices a side, `base` the best ask, and one trade there. */
export const tapeMarket = (id: string, base: number): string[] => [
  `2026-03-02T09:00:00.000Z,${id},state,,,,open`,
  ...[0, 1, 2, 3, 4, 5].map((i) => `2026-03-02T09:00:00.000Z,${id},level,bid,${(base - 0.02 - i / 100).toFixed(2)},500,`),
  ...[0, 1, 2, 3, 4, 5].map((i) => `2026-03-02T09:00:00.000Z,${id},level,ask,${(base + i / 100).toFixed(2)},500,`),
  `2026-03-02T09:00:00.500Z,${id},trade,buy,${base.toFixed(2)},100,`,
];

/** Writes a tape of the rows, with its header. */
export function writeTape(rows: readonly string[]): string {
  const file = join(newFolder(), 'tape.csv');
  writeFileSync(file, `time,instrument,event,side,price,quantity,text\n${rows.join('\n')}\n`);
  return file;
}

/** Starts the built program and waits until it says that it is ready, or has ended. A demo world has no past unless that is asked for. */
export async function startServer(settings: Record<string, string> = {}): Promise<Server> {
  const folder = settings['KAVIX_DATA'] ?? newFolder();
  const child = spawn(process.execPath, [PROGRAM], {
    env: { ...process.env, KAVIX_PAST: 'none', ...settings, PORT: settings['PORT'] ?? '0', KAVIX_DATA: folder },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  running.add(child);
  let text = '';
  const ended = new Promise<number | null>((done) =>
    child.once('exit', (code) => {
      running.delete(child);
      done(code);
    }),
  );
  await new Promise<void>((done, fail) => {
    const timer = setTimeout(() => fail(new Error(`not ready in time: ${text}`)), READY_WITHIN_MS);
    const read = (chunk: Buffer): void => {
      text += chunk.toString();
      if (!text.includes('Kavix is ready')) return;
      clearTimeout(timer);
      done();
    };
    child.stdout.on('data', read);
    child.stderr.on('data', read);
    void ended.then(() => {
      clearTimeout(timer);
      done();
    });
  });
  const port = Number(/ready at http:\/\/[^:]+:(\d+)/.exec(text)?.[1] ?? 0);
  return {
    address: `http://127.0.0.1:${port}`,
    folder,
    port,
    process: child,
    output: () => text,
    stop: async () => {
      child.kill('SIGTERM');
      const late = setTimeout(() => child.kill('SIGKILL'), STOPPED_WITHIN_MS);
      const code = await ended;
      clearTimeout(late);
      return code;
    },
    kill: async () => {
      child.kill('SIGKILL');
      await ended;
    },
  };
}

export interface Reply {
  readonly status: number;
  readonly body: never;
  readonly headers: Headers;
}

/** A client of the API with a session of its own. */
export class Client {
  readonly address: string;
  private cookie = '';
  csrf = '';

  constructor(address: string) {
    this.address = address;
  }

  /** What makes a request its own, for those that are made otherwise. */
  get credentials(): { cookie: string } {
    return { cookie: this.cookie };
  }

  static async signIn(address: string, user = 'demo', password = 'kavix-demo'): Promise<Client> {
    const client = new Client(address);
    const reply = await client.call('POST', '/api/session', { user, password });
    if (reply.status !== 200) throw new Error(`sign-in failed: ${JSON.stringify(reply.body)}`);
    client.csrf = (reply.body as { csrf: string }).csrf;
    return client;
  }

  async call(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Reply> {
    const response = await fetch(this.address + path, {
      method,
      redirect: 'manual',
      signal: AbortSignal.timeout(ANSWERED_WITHIN_MS),
      headers: { ...(body === undefined ? {} : { 'content-type': 'application/json' }), cookie: this.cookie, 'x-csrf-token': this.csrf, ...headers },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    const set = response.headers.get('set-cookie');
    if (set) this.cookie = set.split(';')[0] ?? '';
    const text = await response.text();
    let parsed: unknown = text;
    try {
      parsed = JSON.parse(text);
    } catch {
      // Not every answer is JSON.
    }
    // Every successful answer of every test is held against its schema.
    const problem = answerProblem(method, path, response.status, parsed);
    if (problem !== null) throw new Error(problem);
    return { status: response.status, body: parsed as never, headers: response.headers };
  }

  get = (path: string): Promise<Reply> => this.call('GET', path);
  post = (path: string, body: unknown): Promise<Reply> => this.call('POST', path, body);

  /** Runs a manual clock to a time of the first day. */
  async to(clock: string): Promise<void> {
    const reply = await this.post('/api/clock', { advanceTo: clock.includes('T') ? clock : `2026-03-02T${clock}Z` });
    if (reply.status !== 200) throw new Error(JSON.stringify(reply.body));
  }
}
