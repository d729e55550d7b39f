import { ASSETS, MOVEMENT_KINDS, PURPOSES } from '../core/backoffice/index.ts';
import { APPLICATION_STATES, CASH_REQUEST_KINDS, CASH_REQUEST_STATES } from '../core/portfolio/index.ts';
import { dec, decOrNull, id, idOrNull, int, intOrNull, list, shape, text, textOrNull, time, timeOrNull } from './values.ts';

const day = { type: 'string' } as const;

/** How far a new issue has come. */
export const ISSUE_STATES = ['open', 'closed', 'allotted', 'listed'] as const;

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

export const newIssue = shape({
  id,
  name: text,
  sector: textOrNull,
  low: dec,
  high: dec,
  lot: int,
  mostLots: int,
  state: { type: 'string', enum: ISSUE_STATES },
  opensAt: time,
  closesAt: time,
  allottedAt: time,
  listsOn: day,
  price: decOrNull,
});

export const application = shape({
  id,
  clientRequestId: id,
  account: id,
  issue: id,
  lots: int,
  price: dec,
  /** What it ties up just now. */
  amount: dec,
  state: { type: 'string', enum: APPLICATION_STATES },
  allottedLots: intOrNull,
  issuePrice: decOrNull,
  requestedAt: time,
  changedAt: time,
});

const asked = { lots: { type: 'integer', minimum: 1, maximum: 1000 }, price: dec } as const;

export const newApplication = {
  type: 'object',
  properties: { clientRequestId: id, account: id, issue: id, ...asked },
  required: ['account', 'issue', 'lots', 'price'],
  additionalProperties: false,
} as const;

export const applicationChange = { type: 'object', properties: asked, minProperties: 1, additionalProperties: false } as const;

export const newCashRequest = {
  type: 'object',
  properties: { clientRequestId: id, account: id, kind: { type: 'string', enum: CASH_REQUEST_KINDS }, amount: dec },
  required: ['account', 'kind', 'amount'],
  additionalProperties: false,
} as const;
