export {
  type Order,
  type OrderIdentity,
  type OrderRole,
  type OrderState,
  type OrderTerms,
  type PendingReplace,
  type ReasonCode,
  type TimeInForce,
  ORDER_ROLES,
  ORDER_STATES,
  REASON_CODES,
  TERMINAL_STATES,
  TIMES_IN_FORCE,
} from './order.ts';
export {
  type OrderReport,
  applyReport,
  isFinished,
  isTerminal,
  orderState,
  remainingQuantity,
  requestCancel,
  requestReplace,
  requestedOrder,
} from './lifecycle.ts';
export { type FieldProblem, type Refusal, type Suggestion, invalid } from './refusal.ts';
export { type OrderChange, type OrderRequest, type Pricing, fingerprint, offsetLimit, readTerms } from './request.ts';
export { type Effect, type MarketView, effectOnPosition, restOnlyProblem, stopProblem, wouldTrade } from './check.ts';
export { orderSentence } from './sentence.ts';
export { type Ghost, type GhostAsk, ghostAt, ghostRequest, sameGhost } from './ghost.ts';
