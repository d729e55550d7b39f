import { createServer } from 'node:net';

/** A port that nothing listens on just now, for the benchmarks' own page servers. */
export const freePort = (): Promise<number> =>
  new Promise((done) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => done(port));
    });
  });
