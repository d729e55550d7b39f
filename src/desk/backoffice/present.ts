import { sharesOf, type ClosedLot, type ContractNote, type Movement, type Share, type StatementDay } from '../../core/backoffice/index.ts';
import type { AccountState } from '../../core/desk/index.ts';
import { VENUES, asQuantity, formatPrice, isListed, formatQuantity, type Instrument } from '../../core/instrument/index.ts';
import { formatDay, localDay, tradingDay } from '../../core/market/index.ts';
import { formatMoney, formatScaled, type Currency, type Money } from '../../core/number/index.ts';
import { settledQuantity, tiedUp, valueAtHalves, type Application, type CashRequest, type Market, type NewIssue } from '../../core/portfolio/index.ts';
import { NONE } from '../../core/review/index.ts';
import type { ISSUE_STATES } from '../../schemas/backoffice.ts';
import type { ShapeOf, backoffice } from '../../schemas/shapes.ts';
import { averageText, isoOrNull, isoTime } from '../present/text.ts';

export const presentMovement = ({ time, asset, kind, amount, fillId, requestId, text }: Movement): ShapeOf<typeof backoffice.movement> => ({
  time: isoTime(time),
  kind,
  amount: formatMoney(amount, asset as Currency),
  fillId,
  requestId,
  text,
});

export const presentDay = ({ day, opening, movements, closing }: StatementDay, asset: Currency) => ({
  day: formatDay(day),
  opening: formatMoney(opening, asset),
  movements: movements.map(presentMovement),
  closing: formatMoney(closing, asset),
});

export function presentNote({
  orderId,
  instrument,
  side,
  day,
  fills,
  quantity,
  value,
  fees,
  amount,
  settlesAt,
}: ContractNote): ShapeOf<typeof backoffice.contractNote> {
  const currency = instrument.settlesIn;
  const money = (sum: Money): string => formatMoney(sum, currency);
  const date = formatDay(day);
  return {
    number: `${orderId}/${date}`,
    orderId,
    account: fills[0]?.account ?? '',
    instrument: instrument.id,
    name: instrument.name,
    side,
    day: date,
    quantity: formatQuantity(instrument, quantity),
    averagePrice: averageText(instrument, quantity, value),
    value: money(value),
    fees: money(fees),
    amount: money(amount),
    currency,
    settlesOn: settlesAt === null ? null : formatDay(localDay(VENUES[instrument.venue].zone, settlesAt)),
    fills: fills.map((fill) => ({
      id: fill.id,
      time: isoTime(fill.time),
      quantity: formatQuantity(instrument, fill.quantity),
      price: formatPrice(instrument, fill.price),
      fee: money(fill.fee),
    })),
  };
}

export function presentLot(instrument: Instrument, lot: ClosedLot): ShapeOf<typeof backoffice.closedLot> {
  const money = (value: Money): string => formatMoney(value, instrument.settlesIn);
  return {
    instrument: lot.instrument,
    quantity: formatQuantity(instrument, lot.quantity),
    openedAt: isoTime(lot.openedAt),
    closedAt: isoTime(lot.closedAt),
    cost: money(lot.cost),
    proceeds: money(lot.proceeds),
    fees: money(lot.fees),
    result: money(lot.result),
  };
}

export const presentCashRequest = ({
  id,
  clientRequestId,
  account,
  kind,
  amount,
  state,
  requestedAt,
  paidAt,
}: CashRequest): ShapeOf<typeof backoffice.cashRequest> => ({
  id,
  clientRequestId,
  account,
  kind,
  amount: formatMoney(amount, 'EUR'),
  state,
  requestedAt: isoTime(requestedAt),
  paidAt: isoOrNull(paidAt),
});

function issueState(instrument: Instrument, { closesAt, allottedAt }: NewIssue, now: number): (typeof ISSUE_STATES)[number] {
  if (now < closesAt) return 'open';
  if (now < allottedAt) return 'closed';
  return isListed(instrument, formatDay(tradingDay(instrument.venue, now))) ? 'listed' : 'allotted';
}

export function presentNewIssue(instrument: Instrument, issue: NewIssue, now: number): ShapeOf<typeof backoffice.newIssue> {
  const { id, low, high, lot, mostLots, opensAt, closesAt, allottedAt, listsOn, price } = issue;
  return {
    id,
    name: instrument.name,
    sector: instrument.sector,
    low: formatPrice(instrument, low),
    high: formatPrice(instrument, high),
    lot,
    mostLots,
    state: issueState(instrument, issue, now),
    opensAt: isoTime(opensAt),
    closesAt: isoTime(closesAt),
    allottedAt: isoTime(allottedAt),
    listsOn,
    price: price === null ? null : formatPrice(instrument, price),
  };
}

export function presentApplication(instrument: Instrument, application: Application): ShapeOf<typeof backoffice.application> {
  const { id, clientRequestId, account, issue, lots, price, state, allottedLots, issuePrice, requestedAt, changedAt } = application;
  return {
    id,
    clientRequestId,
    account,
    issue,
    lots,
    price: formatPrice(instrument, price),
    amount: formatMoney(tiedUp(instrument, application), 'EUR'),
    state,
    allottedLots,
    issuePrice: issuePrice === null ? null : formatPrice(instrument, issuePrice),
    requestedAt: isoTime(requestedAt),
    changedAt: isoTime(changedAt),
  };
}

/** Settled units of shares and funds at their marks; what has no mark has no value. */
export function presentShares({ book }: AccountState, market: Market): ShapeOf<typeof backoffice.shares> {
  const held = Object.values(book.positions).flatMap((position) => {
    const instrument = market.instrument(position.instrument);
    if (instrument.kind !== 'share' && instrument.kind !== 'fund') return [];
    const settled = asQuantity(Math.max(0, settledQuantity(book, instrument.id)));
    const mark = market.mark(instrument.id);
    return settled === 0 || mark === null ? [] : [{ instrument, value: valueAtHalves(instrument, settled, mark) }];
  });
  const present = ({ key, value, percent }: Share) => ({ key, value: formatMoney(value, 'EUR'), percent: formatScaled(percent, 2) });
  return {
    bySector: sharesOf(held.map(({ instrument, value }) => ({ key: instrument.sector ?? NONE, value }))).map(present),
    byInstrument: sharesOf(held.map(({ instrument, value }) => ({ key: instrument.id, value }))).map(present),
  };
}
