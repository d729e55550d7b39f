import { expect } from 'chai';
import { contractNotes } from '../../src/core/backoffice/index.ts';
import type { Fill } from '../../src/core/desk/index.ts';
import { parsePrice, parseQuantity } from '../../src/core/instrument/index.ts';
import { formatDay } from '../../src/core/market/index.ts';
import { formatMoney, money } from '../../src/core/number/index.ts';
import { instrument } from '../support/world.ts';

let made = 0;
const fill = (orderId: string, id: string, time: string, side: 'buy' | 'sell', quantity: string, price: string, fee: string, realised = '0'): Fill =>
  ({
    id: `f${++made}`,
    seq: made,
    time: Date.parse(time),
    orderId,
    instrument: id,
    side,
    quantity: parseQuantity(instrument(id), quantity),
    price: parsePrice(instrument(id), price),
    fee: money(fee),
    realised: money(realised),
  }) as Fill;

const told = (fills: readonly Fill[]): string[] =>
  contractNotes(fills, instrument).map(({ orderId, day, instrument: of, value, fees, amount, settlesAt, fills: parts }) => {
    const text = (sum: typeof value): string => formatMoney(sum, of.settlesIn);
    return `${orderId} ${formatDay(day)} ${parts.length}: ${text(value)} ${text(fees)} ${text(amount)} ${settlesAt === null ? '–' : new Date(settlesAt).toISOString().slice(0, 10)}`;
  });

describe('contract notes', () => {
  it('sum the fills of an order, a note a trading day, in the order of their last fills', () => {
    const notes = told([
      fill('A', 'GANET.HALM', '2026-03-02T10:00:00Z', 'buy', '100', '41.00', '4.10'),
      fill('B', 'GANET.HALM', '2026-03-02T10:01:00Z', 'sell', '50', '41.20', '2.06', '10'),
      fill('A', 'GANET.HALM', '2026-03-02T10:02:00Z', 'buy', '200', '41.01', '8.20'),
      fill('A', 'GANET.HALM', '2026-03-03T09:00:00Z', 'buy', '10', '41.00', '0.41'),
    ]);
    expect(notes).to.deep.equal([
      'B 2026-03-02 1: 2060.00 2.06 2057.94 2026-03-04',
      'A 2026-03-02 2: 12302.00 12.30 -12314.30 2026-03-04',
      'A 2026-03-03 1: 410.00 0.41 -410.41 2026-03-05',
    ]);
  });

  it('move what closing made where only that changes hands, the value of an option at once', () => {
    const notes = told([
      fill('F', 'SALMO-JUN26.HALM', '2026-03-02T10:00:00Z', 'buy', '2', '68.50', '4.00'),
      fill('G', 'SALMO-JUN26.HALM', '2026-03-02T10:05:00Z', 'sell', '2', '68.60', '4.00', '100'),
      fill('O', 'GANET-APR26-40C.HALM', '2026-03-02T10:06:00Z', 'buy', '3', '2.00', '6.00'),
    ]);
    expect(notes).to.deep.equal(['F 2026-03-02 1: 68500.00 4.00 -4.00 –', 'G 2026-03-02 1: 68600.00 4.00 96.00 –', 'O 2026-03-02 1: 600.00 6.00 -606.00 –']);
  });
});
