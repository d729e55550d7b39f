export { type Answer, type AnswerOf, type Asked, type Problem, DEADLINE_MS, LOST, problemWords, request, requestRevised, withQuery } from './api.ts';
export { $accounts, $clock, $fills, $link, $plans, $positions, $ready, $risk, $session, begin, positionKey } from './books.ts';
export { $activity } from './activity.ts';
export { type AlertFiring, $alerts, firingsAfter } from './alerts.ts';
export { $orders, $working, NO_ORDERS, isWorking } from './orders.ts';
export { hasOptions, instrumentOf, instruments, priceOf, tickerOf, zoneOf } from './instruments.ts';
export type { LiveFill, LiveOrder, LivePosition } from './read.ts';
export { findInstruments } from './search.ts';
export { type LiveDepth, type LiveLevel, type LiveQuote, followDepth, followQuote, quoteOf } from './quotes.ts';
export type {
  ApiAccount,
  ApiActivity,
  ApiAlert,
  ApiBar,
  ApiBasketRun,
  ApiClock,
  ApiDepth,
  ApiFill,
  ApiFlattened,
  ApiInstrument,
  ApiLink,
  ApiLiveList,
  ApiNews,
  ApiOrder,
  ApiPlan,
  ApiPosition,
  ApiPreview,
  ApiQuote,
  ApiRisk,
  ApiRules,
  ApiRunningPlan,
  ApiSession,
  ApiTrade,
  ApiWaiting,
} from './shapes.ts';
export { $news, followHeadlines } from './news.ts';
export { type LivePrint, followPrints } from './prints.ts';
export { $dataRate, $merged, DATA_RATES, type DataRate, setDataRate } from './rate.ts';
export { shared } from './shared.ts';
export { $beat, $refused, $screen, follow } from './stream.ts';
