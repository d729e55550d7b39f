export {
  type Holder,
  type Order,
  type OrderGroup,
  type OrderIdentity,
  type OrderRole,
  type OrderState,
  type PendingCancel,
  type PendingReplace,
  type ReasonCode,
  HOLDERS,
  ORDER_ROLES,
  ORDER_STATES,
  PARTIAL_FILL_ACTS,
  REASON_CODES,
  TERMINAL_STATES,
  completeOrder,
  closingOrder,
  requestedOrder,
} from './order.ts';
export {
  type Lifetime,
  type OrderTerms,
  type Pricing,
  type StopLimit,
  type TimeInForce,
  type TrailSeen,
  TIMES_IN_FORCE,
  cutTo,
  isRestOnly,
  limitPriceOf,
  orderType,
  standingAt,
  stopPriceOf,
  trailFor,
  trailedTo,
  triggerOf,
} from './terms.ts';
export { type OrderChange, layOver } from './change.ts';
export {
  type OrderReport,
  applyReport,
  isFinished,
  isHere,
  isOnItsWay,
  isTerminal,
  orderState,
  remainingQuantity,
  requestCancel,
  requestReplace,
} from './lifecycle.ts';
export { type FieldProblem, type Refusal, type Suggestion, invalid, refusalText } from './refusal.ts';
export { type OrderIntent, type OrderRequest, type SavedPlan, type TermsText, readChange, readOrder, readPriceAt } from './request.ts';
export { type Effect, type MarketView, effectOnPosition, firstStop, oversold, priceLimitProblems, restOnlyProblem, stopProblem, wouldTrade } from './check.ts';
export { orderSentence } from './sentence.ts';
export { type Ghost, type GhostAsk, ghostAt, ghostRequest, sameGhost } from './ghost.ts';
