import { ASSETS, MOVEMENT_KINDS, PURPOSES } from '../core/backoffice/index.ts';
import { CASH_REQUEST_KINDS, CASH_REQUEST_STATES } from '../core/portfolio/index.ts';
import { dec, decOrNull, id, idOrNull, list, shape, text, textOrNull, time, timeOrNull } from './values.ts';

const day = { type: 'string' } as const;

export const movement = shape({
  time,
  kind: { type: 'string', enum: MOVEMENT_KINDS },
  amount: dec,
  fillId: idOrNull,
  requestId: idOrNull,
  text,
});

export const statement = shape({
  account: id,
  currency: text,
  asset: { type: 'string', enum: ASSETS },
  purpose: { type: 'string', enum: PURPOSES },
  days: list(shape({ day, opening: dec, movements: list(movement), closing: dec })),
});

export const contractNote = shape({
  number: text,
  orderId: id,
  account: id,
  instrument: id,
  name: text,
  side: { type: 'string', enum: ['buy', 'sell'] },
  day,
  quantity: dec,
  averagePrice: decOrNull,
  value: dec,
  fees: dec,
  amount: dec,
  currency: text,
  settlesOn: textOrNull,
  fills: list(shape({ id, time, quantity: dec, price: dec, fee: dec })),
});

export const closedLot = shape({
  instrument: id,
  quantity: dec,
  openedAt: time,
  closedAt: time,
  cost: dec,
  proceeds: dec,
  fees: dec,
  result: dec,
});
export const realised = shape({ items: list(closedLot), total: dec });

const share = shape({ key: text, value: dec, percent: dec });
export const shares = shape({ bySector: list(share), byInstrument: list(share) });

export const cashRequest = shape({
  id,
  clientRequestId: id,
  account: id,
  kind: { type: 'string', enum: CASH_REQUEST_KINDS },
  amount: dec,
  state: { type: 'string', enum: CASH_REQUEST_STATES },
  requestedAt: time,
  paidAt: timeOrNull,
});

export const newCashRequest = {
  type: 'object',
  properties: { clientRequestId: id, account: id, kind: { type: 'string', enum: CASH_REQUEST_KINDS }, amount: dec },
  required: ['account', 'kind', 'amount'],
  additionalProperties: false,
} as const;
