export { type FeeOf, lossAt } from './at-risk.ts';
export { type CurveFill, type CurvePoint, type CurvePrice, dayCurve } from './day-curve.ts';
export {
  type AppliedFill,
  type FillTerms,
  type Position,
  type Product,
  PRODUCTS,
  applyFill,
  averagePrice,
  flatPosition,
  realised,
  partsAtFlat,
  settlePosition,
  signedQuantity,
  turnDay,
  unrealised,
  valueAt,
  valueAtHalves,
} from './position.ts';
export { type Commission, type CommissionBasis, COMMISSION_BASES, commissionOf, readCommission, type CommissionText, feePart } from './commission.ts';
export {
  type AccountBook,
  type AccountTerms,
  type Booked,
  type UnsettledLot,
  type Wallet,
  baseAsset,
  bookAgreed,
  bookDayTurn,
  bookInForce,
  commissionInForce,
  bookFill,
  bookSettlement,
  inBase,
  mayTrade,
  openAccount,
  positionOf,
  reducibleBy,
  settlesAt,
  settledQuantity,
  homeVenue,
} from './account.ts';
export { type DayPosition, type DayResult, dayResult } from './day-result.ts';
export { type FinalPrice, worthAtExpiry } from './expiry.ts';
export {
  type MarginRate,
  type Market,
  type PositionValue,
  type Valuation,
  euroSources,
  inEuro,
  marginFor,
  positionMargin,
  share,
  valueAccount,
  valuePosition,
} from './valuation.ts';
export { type Application, type NewIssue, APPLICATION_STATES, applicationMoved, bookApplication, tiedUp } from './new-issue.ts';
export { type CashRequest, type CashRequestKind, CASH_REQUEST_KINDS, CASH_REQUEST_STATES, bookCash, cashMoved, unsettledProceeds } from './cash-request.ts';
