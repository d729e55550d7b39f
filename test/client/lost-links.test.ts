import { expect } from 'chai';
import type { ApiFill, ApiOrder, ApiRunningPlan } from '../../src/live/index.ts';
import { backWords, brokerLost, exitsHere, heldUp, pricesLost, screenLost, type Away, type BandWords } from '../../src/views/frame/lost-links.ts';

const FROM = '2026-03-02T10:41:58.000Z';
const TO = '2026-03-02T10:43:20.000Z';

const step = (quantity: string, closedQuantity = '0') => ({ quantity, closedQuantity, state: 'armed', stop: { price: '40.90', orderId: null }, target: null });
const plan = (id: string, instrument: string, more: object = {}): ApiRunningPlan =>
  ({ id, instrument, account: 'MAIN', heldBy: 'here', state: 'armed', steps: [step('300')], log: [], ...more }) as unknown as ApiRunningPlan;
const order = (id: string, more: object = {}): ApiOrder =>
  ({ id, instrument: 'KELPA.HALM', heldBy: 'here', opening: false, plan: null, remainingQuantity: '1200', ...more }) as unknown as ApiOrder;
const fill = (orderId: string, instrument: string, quantity: string, time = TO): ApiFill =>
  ({ orderId, instrument, quantity, side: 'sell', price: '40.74', time }) as unknown as ApiFill;
const whole = ({ before, strong, after }: BandWords): string => before + strong + after;

describe('what a lost link means', () => {
  const GANET = plan('p1', 'GANET.HALM', { steps: [step('200'), step('200', '100')] });

  it('counts what is held here and closes: plans that watch, and orders without one', () => {
    const exits = exitsHere(
      [plan('p2', 'BRINE.HALM', { heldBy: 'venue' }), plan('p3', 'BRINE.HALM', { state: 'done' }), plan('p4', 'BRINE.HALM', { state: 'waiting' }), GANET],
      [order('o1'), order('o2', { opening: true }), order('o3', { heldBy: 'venue' }), order('o4', { plan: 'p1' })],
    );
    expect(exits.map(({ instrument, quantity }) => `${instrument} ${quantity}`)).to.deep.equal(['GANET.HALM 300', 'KELPA.HALM 1200']);
  });

  it('keeps each exit as it was when suspended, whatever is told first: that it goes on, or that the link is back', () => {
    const at = (state: string, lines: number): ReturnType<typeof exitsHere> =>
      exitsHere([plan('p1', 'GANET.HALM', { state, log: Array.from({ length: lines }, () => ({ time: FROM, text: '', orderId: null })) })], []);
    const suspended = heldUp(heldUp([], at('armed', 1)), at('suspended', 2));
    expect([suspended, heldUp(suspended, at('armed', 3)), heldUp(suspended, at('done', 4))].map((exits) => exits.map((one) => one.plan?.said))).to.deep.equal([
      [2],
      [2],
      [2],
    ]);
  });

  it('of the broker: which exits are suspended, and what goes on at the venue', () => {
    const both = exitsHere([GANET], [order('o1')]);
    expect(whole(brokerLost('10:41:58', both, 3))).to.equal(
      'No link to the broker since 10:41:58. 2 exits held here are SUSPENDED: GANET 300, KELPA 1,200. They are checked when it is back. ' +
        '3 orders at the venue go on there. Nothing can be sent.',
    );
    expect(brokerLost('10:41:58', both, 3).strong).to.equal('2 exits held here are SUSPENDED');
    expect(whole(brokerLost('10:41:58', [], 1))).to.equal('No link to the broker since 10:41:58. 1 order at the venue goes on there. Nothing can be sent.');
  });

  it('of the prices: which exits can’t see their market, and that closing works', () => {
    expect(whole(pricesLost('10:41:50', exitsHere([GANET], [])))).to.equal(
      'No prices since 10:41:50. 1 exit held here can’t see its market: GANET 300. Its stop can’t fire. The broker link works: you can close.',
    );
    expect(whole(pricesLost('10:41:50', []))).to.equal('No prices since 10:41:50. Nothing here sees its market. The broker link works: you can close.');
  });

  it('of the screen: that all goes on without it', () => {
    expect(whole(screenLost('10:42:07'))).to.include('Orders at the venue and exits held here go on without it.');
  });
});

describe('what a link’s return brought', () => {
  const suspended = plan('p1', 'GANET.HALM', { state: 'suspended', log: [{ time: FROM, text: 'Suspended.', orderId: null }] });
  const away = (exits = exitsHere([suspended], [order('o1')])): Away => ({ what: 'Broker', from: FROM, to: TO, exits });
  const said = (...lines: [text: string, orderId: string | null][]): Record<string, ApiRunningPlan> => ({
    p1: { ...suspended, log: [...suspended.log, ...lines.map(([text, orderId]) => ({ time: TO, text, orderId }))] },
  });

  it('is told by exit: what was passed, and what it closed', () => {
    const plans = said(['Its stop at 40.90 was passed, low 40.71: it fires.', null], ['Step 1: closed.', 'o9']);
    expect(backWords(away(), '10:43:20', plans, [fill('o9', 'GANET.HALM', '300')])).to.equal(
      'Broker back 10:43:20, away 1 min 22 s. GANET 300: its stop at 40.90 was passed, low 40.71: it fires; sold 300 at 40.74.',
    );
  });

  it('and of an exit without a plan by what it closed; the fills of others come after', () => {
    const plans = said(['It goes on: nothing was passed meanwhile.', null]);
    const fills = [fill('o1', 'KELPA.HALM', '1200'), fill('o7', 'BRINE.HALM', '10'), fill('o7', 'BRINE.HALM', '5', '2026-03-02T10:00:00.000Z')];
    expect(backWords(away(), '10:43:20', plans, fills)).to.equal(
      'Broker back 10:43:20, away 1 min 22 s. GANET 300: it goes on: nothing was passed meanwhile. KELPA 1,200: sold 1,200 at 40.74. Meanwhile BRINE sold 10 at 40.74.',
    );
  });

  it('is short where nothing waited and nothing filled, and counts what is too much to tell', () => {
    expect(backWords(away([]), '10:43:20', {}, [])).to.equal('Broker back 10:43:20, away 1 min 22 s. Nothing filled meanwhile.');
    expect(backWords({ ...away([]), what: 'Prices' }, '10:43:20', {}, [])).to.equal('Prices back 10:43:20, away 1 min 22 s.');
    const many = Array.from({ length: 5 }, (_, i) => fill(`o${i + 20}`, 'BRINE.HALM', '1'));
    expect(backWords(away([]), '10:43:20', {}, many)).to.include('and 2 fills more.');
  });
});
