export {
  type Holder,
  type Order,
  type OrderIdentity,
  type OrderRole,
  type OrderState,
  type PendingCancel,
  type PendingReplace,
  type ReasonCode,
  HOLDERS,
  ORDER_ROLES,
  ORDER_STATES,
  REASON_CODES,
  TERMINAL_STATES,
  requestedOrder,
} from './order.ts';
export {
  type Lifetime,
  type OrderTerms,
  type Pricing,
  type StopLimit,
  type TimeInForce,
  TIMES_IN_FORCE,
  cutTo,
  isRestOnly,
  limitPriceOf,
  orderType,
  standingAt,
  stopPriceOf,
  triggerOf,
} from './terms.ts';
export { type OrderChange, layOver } from './change.ts';
export { type OrderReport, applyReport, isFinished, isTerminal, orderState, remainingQuantity, requestCancel, requestReplace } from './lifecycle.ts';
export { type FieldProblem, type Refusal, type Suggestion, invalid, refusalText } from './refusal.ts';
export { type OrderIntent, type OrderRequest, type TermsText, type TrailText, readChange, readOrder } from './request.ts';
export { type Effect, type MarketView, effectOnPosition, firstStop, oversold, priceLimitProblems, restOnlyProblem, stopProblem, wouldTrade } from './check.ts';
export { orderSentence } from './sentence.ts';
export { type Ghost, type GhostAsk, ghostAt, ghostRequest, sameGhost } from './ghost.ts';
