import { formatPrice, formatQuantity } from '../../core/instrument/index.ts';
import { CURRENCIES, formatMoney, formatScaled, type Money } from '../../core/number/index.ts';
import { averagesOf, netOf, type Figures } from '../../core/review/index.ts';
import type { ShapeOf, review } from '../../schemas/shapes.ts';
import { presentEntry } from '../present/index.ts';
import { isoTime } from '../present/text.ts';
import type { Course } from './course.ts';
import type { ReviewedMiss, ReviewedTrip } from './review.ts';

const euro = (value: Money): string => formatMoney(value, 'EUR');
const euroOr = (value: Money | null): string | null => (value === null ? null : euro(value));
const quotient = (value: bigint | null): string | null => (value === null ? null : formatScaled(value, 8, 0));

/** The course of a round trip: its fills, where its exits stood, and what was asked and answered. */
export const presentCourse = ({ trip, instrument }: ReviewedTrip, { entries, levels }: Course): ShapeOf<typeof review.course> => ({
  fills: trip.fills.map(({ fillId, orderId, time, side, price, quantity }) => ({
    id: fillId,
    orderId,
    time: isoTime(time),
    side,
    price: formatPrice(instrument, price),
    quantity: formatQuantity(instrument, quantity),
    enters: (side === 'buy') === trip.long,
  })),
  levels: levels.map(({ kind, price, from, to }) => ({ kind, price: formatPrice(instrument, price), from: isoTime(from), to: isoTime(to) })),
  entries: entries.map(presentEntry),
});

export function presentTrip({ trip, seen, instrument, setup, note, quantity, heldSeconds, r }: ReviewedTrip): ShapeOf<typeof review.roundTrip> {
  const currency = instrument.settlesIn;
  const money = (value: Money): string => formatMoney(value, currency);
  const moneyOr = (value: Money | null): string | null => (value === null ? null : money(value));
  const averages = averagesOf(instrument, trip);
  const average = (value: bigint | null): string | null => (value === null ? null : formatScaled(value, 8, instrument.priceDecimals));
  return {
    id: trip.id,
    account: trip.account,
    instrument: trip.instrument,
    product: trip.product,
    side: trip.long ? 'long' : 'short',
    setup,
    openedAt: isoTime(trip.openedAt),
    closedAt: isoTime(trip.closedAt),
    quantity,
    averageEntry: average(averages.entry),
    averageExit: average(averages.exit),
    gross: money(trip.gross),
    fees: money(trip.fees),
    net: money(netOf(trip)),
    currency,
    netEur: euro(seen.netEur),
    firstRisk: moneyOr(trip.firstRisk),
    r: quotient(r),
    mae: money(seen.mae),
    mfe: money(seen.mfe),
    heldSeconds,
    slippage: moneyOr(seen.slippage),
    orderIds: [...new Set(trip.fills.map(({ orderId }) => orderId))],
    fillIds: [...new Set(trip.fills.map(({ fillId }) => fillId))],
    note,
  };
}

export const presentFigures = (figures: Figures): ShapeOf<typeof review.figures> => ({
  ...figures,
  winRate: figures.winRate === null ? null : formatScaled(figures.winRate, 2),
  gross: euro(figures.gross),
  fees: euro(figures.fees),
  net: euro(figures.net),
  averageNet: euroOr(figures.averageNet),
  averageWin: euroOr(figures.averageWin),
  averageLoss: euroOr(figures.averageLoss),
  expectancyR: quotient(figures.expectancyR),
  profitFactor: quotient(figures.profitFactor),
  drawdown: euro(figures.drawdown),
  largestWin: euroOr(figures.largestWin),
  largestLoss: euroOr(figures.largestLoss),
  averageHeldSeconds: quotient(figures.averageHeldSeconds),
  perDay: euroOr(figures.perDay),
  perActiveDay: euroOr(figures.perActiveDay),
});

export function presentMiss({ missed, instrument, toClose, best, worst }: ReviewedMiss): ShapeOf<typeof review.missed> {
  const money = (value: Money | null): string | null => (value === null ? null : formatScaled(value, 8, CURRENCIES[instrument.settlesIn].decimals));
  return {
    order: missed.orderId,
    instrument: missed.instrument,
    setup: missed.setup,
    price: formatPrice(instrument, missed.price),
    quantity: formatQuantity(instrument, missed.quantity),
    endedAt: isoTime(missed.endedAt),
    toClose: money(toClose),
    best: money(best),
    worst: money(worst),
  };
}
