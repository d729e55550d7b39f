import { expect } from 'chai';
import { Client, dropFolder, newFolder, startServer } from '../support/server.ts';

/** How often the server is killed. */
const KILLS = Number(process.env['KAVIX_KILLS'] ?? 50);

interface Item {
  readonly id: string;
  readonly clientOrderId: string;
  readonly state: string;
}

describe('a server killed at any moment', function () {
  this.timeout(Number.MAX_SAFE_INTEGER);

  it(`has lost no acknowledged order and doubled none, ${KILLS} times`, async () => {
    const folder = newFolder();
    const acknowledged = new Map<string, string>();
    let placed = 0;
    let time = '';
    for (let round = 0; round < KILLS; round++) {
      const server = await startServer({ KAVIX_DATA: folder, KAVIX_LOG: 'silent' });
      const client = await Client.signIn(server.address);
      const { time: now } = (await client.get('/api/clock')).body as { time: string };
      // Milliseconds of a clock that was stored within the last second.
      expect(Date.parse(now), `the clock of round ${round}`).to.be.at.least(Date.parse(time || now) - 1000);
      const known = new Map<string, Item[]>();
      let cursor = '0';
      for (;;) {
        const { items, after } = (await client.get(`/api/orders?limit=1000&after=${cursor}`)).body as { items: Item[]; after: string };
        for (const item of items) known.set(item.clientOrderId, [...(known.get(item.clientOrderId) ?? []), item]);
        if (items.length === 0) break;
        cursor = after;
      }
      for (const [clientOrderId, id] of acknowledged)
        expect(
          known.get(clientOrderId)?.map((item) => item.id),
          clientOrderId,
        ).to.deep.equal([id]);
      // A few orders at once, some changed or cancelled, until the server is gone.
      let gone = false;
      const life = 5 + ((round * 7919) % 90);
      // The moment is counted from the first acknowledged order: on a slow machine none would come before it.
      let first: () => void = () => undefined;
      const begun = new Promise<void>((done) => (first = done));
      const killed = begun.then(() => new Promise<void>((done) => setTimeout(() => void server.kill().then(done), life)));
      const work = async (): Promise<void> => {
        while (!gone) {
          const clientOrderId = `k-${++placed}`;
          const reply = await client
            .post('/api/orders', {
              clientOrderId,
              account: placed % 2 ? 'MAIN' : 'EVAL',
              instrument: placed % 2 ? 'GANET.HALM' : 'HALM40M-JUN26.HALM',
              side: 'buy',
              type: 'limit',
              quantity: '1',
              limitPrice: placed % 3 ? (placed % 2 ? '39.00' : '780.0') : placed % 2 ? '42.00' : '830.0',
              reduceOnly: false,
            })
            .catch(() => null);
          if (!reply) return;
          if (reply.status === 201) {
            const { id } = reply.body as Item;
            acknowledged.set(clientOrderId, id);
            first();
            if (placed % 4 === 0) await client.call('DELETE', `/api/orders/${id}`).catch(() => null);
          } else expect(reply.status, JSON.stringify(reply.body)).to.be.oneOf([422, 503]);
        }
      };
      const workers = [work(), work(), work()];
      time = now;
      await killed;
      gone = true;
      await Promise.all(workers);
    }
    const server = await startServer({ KAVIX_DATA: folder });
    const client = await Client.signIn(server.address);
    await new Promise((resolve) => setTimeout(resolve, 500));
    const { items } = (await client.get('/api/activity?limit=1000')).body as { items: { kind: string; text: string }[] };
    expect(items.filter((entry) => entry.kind === 'difference').map((entry) => entry.text)).to.deep.equal([]);
    expect(acknowledged.size).to.be.at.least(KILLS);
    const { items: pending } = (await client.get('/api/orders?state=pending-new')).body as { items: Item[] };
    expect(pending).to.deep.equal([]);
    await server.stop();
    dropFolder(folder);
  });
});
