import { expect } from 'chai';
import { Client, tapeMarket, type Reply } from '../support/server.ts';
import { TapeServer, played } from '../support/tape-server.ts';

const G = 'GANET.HALM';
const B = 'BRINE.HALM';
const ROWS = [...tapeMarket(G, 41.2), ...tapeMarket(B, 27.3)].sort();

interface Plan {
  readonly id: string;
  readonly state: string;
  readonly steps: readonly {
    readonly stop: { readonly price: string; readonly orderId: string | null } | null;
    readonly target: { readonly price: string } | null;
  }[];
}
interface Problem {
  readonly type: string;
  readonly detail: string;
  readonly errors?: readonly { readonly path: string; readonly nearest?: readonly string[] }[];
  readonly suggestion?: object;
}

const said = ({ status, body }: Reply): string => {
  const { type, errors } = body as Problem;
  return `${status} ${type.replace('/problems/', '')}${(errors ?? []).map(({ path }) => ` ${path}`).join('')}`;
};

describe('a leg that waits here', function () {
  this.timeout(60_000);

  /** A position in each of two instruments, one with exits held here, one with exits at the venue. */
  const withPlans = async (tape: TapeServer): Promise<{ here: Plan; venue: Plan }> => {
    await tape.go(1);
    await tape.api.call('PUT', '/api/consents/held-here', { given: true });
    const put = async (instrument: string, heldBy: 'here' | 'venue'): Promise<Plan> => {
      await tape.made('/api/orders', { clientOrderId: instrument, account: 'MAIN', instrument, side: 'buy', type: 'market', quantity: '20' });
      const leg = { by: 'ticks', order: 'market' };
      const steps = [{ share: '100', stop: { ...leg, value: '20' }, target: { ...leg, order: 'limit', value: '40' } }];
      return tape.made(`/api/positions/MAIN/${instrument}/exit-plan`, { plan: { heldBy, onSizeChange: 'follow', onMissedLevel: 'fire', steps } });
    };
    return { here: await put(G, 'here'), venue: await put(B, 'venue') };
  };

  it('is moved, and the plan is answered as it is then; the activity says by whom', () =>
    played(new TapeServer(ROWS), async (tape) => {
      const { here } = await withPlans(tape);
      const moved = await tape.api.call('PATCH', `/api/running-plans/${here.id}`, { step: 0, leg: 'stop', price: '40.90' });
      expect([moved.status, (moved.body as Plan).steps[0]?.stop?.price, (moved.body as Plan).state]).to.deep.equal([200, '40.90', 'armed']);
      const target = await tape.api.call('PATCH', `/api/running-plans/${here.id}`, { step: 0, leg: 'target', price: '42.10' });
      expect((target.body as Plan).steps[0]).to.deep.include({ stop: { price: '40.90', orderId: null }, target: { price: '42.10', orderId: null } });
      const { items } = await tape.got<{ items: { by: string; kind: string; text: string }[] }>(`/api/activity?instrument=${G}&limit=1000`);
      expect(items.filter(({ kind, by }) => kind === 'plan' && by === 'user').map(({ text }) => text.split(': ')[1])).to.include.members([
        'stop to 40.90.',
        'target to 42.10.',
      ]);
    }));

  it('is not moved where it can’t be, in words at what is wrong, and stays where it was', () =>
    played(new TapeServer(ROWS), async (tape) => {
      const { here, venue } = await withPlans(tape);
      const patch = (id: string, body: object): Promise<Reply> => tape.api.call('PATCH', `/api/running-plans/${id}`, body);
      const stop = { step: 0, leg: 'stop', price: '40.90' };
      const offGrid = await patch(here.id, { ...stop, price: '40.905' });
      expect([said(offGrid), (offGrid.body as Problem).errors?.[0]?.nearest]).to.deep.equal(['422 validation /price', ['40.90', '40.91']]);
      const through = await patch(here.id, { ...stop, price: '45.00' });
      expect([said(through), (through.body as Problem).suggestion]).to.deep.equal(['422 validation /price', { type: 'limit', limitPrice: '45.00' }]);
      const answers = [
        await patch(here.id, { ...stop, leg: 'target' }),
        await patch(here.id, { ...stop, price: '0' }),
        await patch(here.id, { ...stop, step: 1 }),
        await patch(here.id, { ...stop, step: 5 }),
        await patch(here.id, { ...stop, leg: 'entry' }),
        await patch(here.id, { ...stop, colour: 'red' }),
        await patch(venue.id, { ...stop, price: '27.00' }),
        await patch('MAIN-p99', stop),
      ].map(said);
      expect(answers).to.deep.equal([
        '422 validation /price',
        '422 validation /price',
        '422 validation /step',
        '422 validation /step',
        '422 validation /leg',
        '422 validation /colour',
        '409 conflict',
        '404 not-found',
      ]);
      const second = await Client.signIn(tape.api.address, 'second', 'kavix-second');
      expect(said(await second.call('PATCH', `/api/running-plans/${here.id}`, stop)), 'another’s').to.equal('404 not-found');
      const { items } = await tape.got<{ items: Plan[] }>('/api/running-plans');
      expect(items.find(({ id }) => id === here.id)?.steps).to.deep.equal(here.steps);
      // One that has ended says so rather than name an order that is gone.
      await tape.api.call('DELETE', `/api/running-plans/${venue.id}`);
      expect(((await patch(venue.id, { ...stop, price: '27.00' })).body as Problem).detail).to.equal('The plan is stopped.');
    }));
});

describe('several order phrases read in one call', function () {
  this.timeout(60_000);

  it('are each what it is alone, those that are wrong among them; too many or none are refused', () =>
    played(new TapeServer(ROWS), async (tape) => {
      await tape.go(1);
      const target = { account: 'MAIN', instrument: G };
      const phrases = ['buy 100 at bid', 'sell 5 at ask + 2 ticks', 'buy soon', 'flatten', `buy 10 ${B} at 27.00`, ''];
      const alone: unknown[] = [];
      for (const phrase of phrases) alone.push((await tape.api.post('/api/phrases/order', { phrase, ...target })).body);
      const together = await tape.api.post('/api/phrases/orders', { phrases, ...target });
      expect(together.status).to.equal(200);
      expect((together.body as { items: { ok: boolean }[] }).items).to.deep.equal(alone);
      expect((together.body as { items: { ok: boolean }[] }).items.map(({ ok }) => ok)).to.deep.equal([true, true, false, true, true, false]);
      const refused = [
        { phrases: [], ...target },
        { phrases: Array.from({ length: 101 }, () => 'flatten'), ...target },
        { phrases: [7], ...target },
        { phrases, account: 'OTHER' },
        { phrases, instrument: 'NOPE.HALM' },
      ];
      const answers: string[] = [];
      for (const body of refused) answers.push(said(await tape.api.post('/api/phrases/orders', body)));
      expect(answers).to.deep.equal([
        '422 validation /phrases',
        '422 validation /phrases',
        '422 validation /phrases/0',
        '422 validation /account',
        '422 validation /instrument',
      ]);
    }));
});
