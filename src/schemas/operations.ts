import { INSTRUMENT_KINDS, VENUE_IDS } from '../core/instrument/index.ts';
import { ASSETS, LOT_METHODS, PURPOSES } from '../core/backoffice/index.ts';
import { GROUPINGS } from '../core/review/index.ts';
import * as accounts from './accounts.ts';
import * as backoffice from './backoffice.ts';
import * as baskets from './baskets.ts';
import * as exits from './exits.ts';
import * as finding from './finding.ts';
import * as market from './market.ts';
import * as options from './options.ts';
import * as orders from './orders.ts';
import * as review from './review.ts';
import * as risk from './risk.ts';
import * as saved from './saved.ts';
import { bool, id, list, shape, text, textOrNull, time } from './values.ts';

/** One call of the API: what it takes and what it answers. OpenAPI and the endpoints both read this table. */
export interface Operation {
  readonly summary: string;
  /** Allowed query parameters. */
  readonly query?: Readonly<Record<string, object>>;
  readonly requiredQuery?: readonly string[];
  readonly body?: object;
  /** A body that may be left out. */
  readonly optionalBody?: object;
  readonly answers: Readonly<Record<number, object | null>>;
  /** Answers without sign-in. */
  readonly open?: true;
}

const INTERVAL = {
  type: 'string',
  pattern: '^(1m|2m|3m|5m|15m|30m|1h|4h|1d|1w|[1-9]\\d{0,2}min)$',
  description: '1m, 2m, 3m, 5m, 15m, 30m, 1h, 4h, 1d, 1w, or minutes of one’s own from 1min to 999min',
};
const limit = (most: number): object => ({ type: 'integer', minimum: 1, maximum: most });
const cursor = { type: 'string', pattern: '^\\d{1,15}$' };
const paging = { limit: limit(1000), after: cursor, before: cursor };
const items = <const S>(of: S) => shape({ items: list(of) });
const page = <const S>(of: S) => shape({ items: list(of), before: textOrNull, after: text });

/** The calls of a kind of documents that a user saves under a name. */
const savedOperations = <const P extends string, B extends object>(path: P, what: string, body: B) =>
  ({
    [`GET /api/${path}`]: { summary: `Names of saved ${what}s`, answers: { 200: saved.savedNames } },
    [`GET /api/${path}/{name}`]: { summary: `A ${what}`, answers: { 200: body } },
    [`PUT /api/${path}/{name}`]: { summary: `Save a ${what}`, body, answers: { 200: body, 201: body } },
    [`DELETE /api/${path}/{name}`]: { summary: `Delete a ${what}`, answers: { 204: null } },
  }) as unknown as { readonly [K in `GET /api/${P}`]: { summary: string; answers: { 200: typeof saved.savedNames } } } & {
    readonly [K in `GET /api/${P}/{name}`]: { summary: string; answers: { 200: B } };
  } & { readonly [K in `PUT /api/${P}/{name}`]: { summary: string; body: B; answers: { 200: B; 201: B } } } & {
    readonly [K in `DELETE /api/${P}/{name}`]: { summary: string; answers: { 204: null } };
  };

export const OPERATIONS = {
  'GET /api/health': { summary: 'Whether Kavix serves', answers: { 200: shape({ ready: bool }) }, open: true },
  'GET /api/openapi.json': { summary: 'This description', answers: { 200: { type: 'object' } }, open: true },
  'POST /api/session': { summary: 'Sign in', body: accounts.signInRequest, answers: { 200: accounts.session }, open: true },
  'GET /api/session': { summary: 'Who am I', answers: { 200: accounts.session } },
  'DELETE /api/session': { summary: 'Sign out', answers: { 204: null } },
  'GET /api/sessions': { summary: 'Where I am signed in', answers: { 200: items(accounts.signedIn) } },
  'DELETE /api/sessions': { summary: 'Sign out everywhere, here too', answers: { 204: null } },
  'DELETE /api/sessions/{id}': { summary: 'Sign out there', answers: { 204: null } },
  'POST /api/session/second-step': { summary: 'Begin or confirm a second step', body: accounts.secondStepRequest, answers: { 200: accounts.secondStep } },
  'DELETE /api/session/second-step': { summary: 'End the second step', body: accounts.secondStepEnd, answers: { 204: null } },
  'GET /api/tokens': { summary: 'Personal tokens', answers: { 200: items(accounts.token) } },
  'POST /api/tokens': { summary: 'Make a personal token', body: accounts.tokenRequest, answers: { 201: accounts.newToken } },
  'DELETE /api/tokens/{id}': { summary: 'Delete a personal token', answers: { 204: null } },
  'GET /api/instruments': {
    summary: 'Look up instruments',
    query: {
      query: { type: 'string', maxLength: 64 },
      kind: { type: 'string', enum: INSTRUMENT_KINDS },
      venue: { type: 'string', enum: VENUE_IDS },
      limit: limit(1000),
    },
    answers: { 200: items(market.instrument) },
  },
  'GET /api/instruments/{id}': { summary: 'An instrument', answers: { 200: market.instrument } },
  'GET /api/quotes': {
    summary: 'Quotes',
    query: { instruments: { type: 'string', maxLength: 20_000 } },
    requiredQuery: ['instruments'],
    answers: { 200: items(market.quote) },
  },
  'GET /api/depth/{id}': { summary: 'Depth', query: { levels: limit(100) }, answers: { 200: market.depth } },
  'GET /api/trades/{id}': { summary: 'Prints', query: paging, answers: { 200: page(market.trade) } },
  'GET /api/news': { summary: 'Headlines', query: { ...paging, instrument: id }, answers: { 200: page(market.news) } },
  'GET /api/bars/{id}': {
    summary: 'Bars, oldest first',
    query: { interval: INTERVAL, from: time, to: time, limit: limit(5000) },
    requiredQuery: ['interval'],
    answers: { 200: market.bars },
  },
  'GET /api/live-lists/{name}': {
    summary: 'A list over all instruments that the server keeps',
    query: {
      venue: { type: 'string', enum: VENUE_IDS },
      kind: { type: 'string', enum: INSTRUMENT_KINDS },
      sector: { type: 'string', maxLength: 64 },
      leastPrice: { type: 'string', format: 'dec' },
      leastVolume: { type: 'string', format: 'dec' },
      limit: limit(500),
    },
    answers: { 200: market.liveList },
  },
  'GET /api/stream': {
    summary: 'Server-Sent Events',
    query: { topics: { type: 'string', maxLength: 60_000 }, lastEventId: { type: 'string', pattern: '^\\d{1,15}$' } },
    answers: { 200: { type: 'string' } },
  },
  'PUT /api/stream/{id}/topics': { summary: 'Replace the topics of a stream', body: accounts.topicsRequest, answers: { 200: accounts.topics } },
  'GET /api/accounts': { summary: 'Accounts', answers: { 200: items(accounts.account) } },
  'GET /api/accounts/{id}': { summary: 'An account', answers: { 200: accounts.account } },
  'POST /api/accounts/{id}/commission': {
    summary: 'Agree with the broker on a line of commission, from a day to come',
    body: accounts.commissionRequest,
    answers: { 201: accounts.commission },
  },
  'POST /api/orders/preview': { summary: 'Check an order without sending it', body: orders.previewRequest, answers: { 200: orders.preview } },
  'POST /api/orders': { summary: 'Place an order', body: orders.orderRequest, answers: { 200: orders.order, 201: orders.order } },
  'GET /api/orders': {
    summary: 'Orders',
    query: {
      ...paging,
      account: id,
      instrument: id,
      clientOrderId: id,
      state: { type: 'string', enum: ['working', 'done', ...orders.order.properties.state.enum] },
    },
    answers: { 200: page(orders.order) },
  },
  'GET /api/orders/{id}': { summary: 'An order', answers: { 200: orders.order } },
  'PATCH /api/orders/{id}': { summary: 'Replace an order', body: orders.orderChange, answers: { 200: orders.order, 202: orders.order } },
  'DELETE /api/orders/{id}': { summary: 'Cancel an order', answers: { 200: orders.order, 202: orders.order } },
  'GET /api/orders/{id}/history': { summary: 'Every version and report of an order', query: paging, answers: { 200: page(orders.history) } },
  'POST /api/orders/cancel': { summary: 'Cancel many orders', body: orders.cancelRequest, answers: { 200: orders.canceledMany } },
  'POST /api/order-groups': {
    summary: 'Orders as a group: placed at once, or working ones linked',
    body: orders.groupRequest,
    answers: { 200: orders.group, 201: orders.group },
  },
  'GET /api/order-groups/{id}': { summary: 'A group of orders', answers: { 200: orders.group } },
  'GET /api/exit-plans': { summary: 'Saved exit plans', answers: { 200: items(exits.exitPlan) } },
  'POST /api/exit-plans': { summary: 'Save a new exit plan', body: exits.newExitPlan, answers: { 201: exits.exitPlan } },
  'GET /api/exit-plans/{name}': { summary: 'A saved exit plan', answers: { 200: exits.exitPlan } },
  'PUT /api/exit-plans/{name}': { summary: 'Change a saved exit plan; what runs is untouched', body: exits.exitPlanChange, answers: { 200: exits.exitPlan } },
  'DELETE /api/exit-plans/{name}': { summary: 'Delete a saved exit plan', answers: { 204: null } },
  'POST /api/positions/{account}/{instrument}/exit-plan': {
    summary: 'Put an exit plan on a position',
    body: exits.putPlan,
    answers: { 201: exits.runningPlan },
  },
  'GET /api/running-plans': { summary: 'Exit plans that run, and those that ended today', query: { account: id }, answers: { 200: items(exits.runningPlan) } },
  'PATCH /api/running-plans/{id}': { summary: 'Move a stop or target that waits here', body: exits.legMove, answers: { 200: exits.runningPlan } },
  'DELETE /api/running-plans/{id}': { summary: 'Stop an exit plan', answers: { 200: exits.runningPlan } },
  'POST /api/running-plans/{id}/answer': { summary: 'Answer an exit plan that asks', body: exits.planAnswer, answers: { 200: exits.runningPlan } },
  'GET /api/consents/held-here': { summary: 'Consent to exits held here', answers: { 200: exits.consent } },
  'PUT /api/consents/held-here': { summary: 'Give or take back the consent to exits held here', body: exits.consentRequest, answers: { 200: exits.consent } },
  'GET /api/risk/{account}': { summary: 'The rules of an account', answers: { 200: risk.riskRules } },
  'PUT /api/risk/{account}': { summary: 'Set the rules of an account, whole', body: risk.riskRequest, answers: { 200: risk.riskRules } },
  'POST /api/risk/{account}/lock': { summary: 'Lock rules until a time', body: risk.lockRequest, answers: { 200: risk.riskState, 201: risk.riskState } },
  'GET /api/risk/{account}/state': { summary: 'What the rules have come to', answers: { 200: risk.riskState } },
  'GET /api/risk/{account}/day': { summary: 'Today’s net as it came about, with its low', answers: { 200: risk.riskDay } },
  'GET /api/risk/{account}/days': {
    summary: 'The last trading days against the rules',
    query: { limit: { type: 'integer', minimum: 1, maximum: 250 } },
    answers: { 200: items(risk.riskDayPast) },
  },
  'GET /api/risk/{account}/changes': { summary: 'Every change of the rules', query: paging, answers: { 200: page(risk.ruleChange) } },
  'POST /api/phrases/order': { summary: 'Read an order phrase; nothing is sent', body: finding.orderPhrase, answers: { 200: finding.orderReading } },
  'POST /api/phrases/orders': {
    summary: 'Read several order phrases; nothing is sent',
    body: finding.orderPhrases,
    answers: { 200: items(finding.orderReading) },
  },
  'POST /api/phrases/condition': { summary: 'Read a condition phrase', body: finding.conditionPhrase, answers: { 200: finding.conditionReading } },
  'GET /api/scans': { summary: 'Saved scans', answers: { 200: items(finding.scan) } },
  'POST /api/scans': { summary: 'Save a new scan', body: finding.newScan, answers: { 201: finding.scan } },
  'GET /api/scans/{name}': { summary: 'A saved scan', answers: { 200: finding.scan } },
  'PUT /api/scans/{name}': { summary: 'Change a saved scan', body: finding.scanChange, answers: { 200: finding.scan } },
  'DELETE /api/scans/{name}': { summary: 'Delete a saved scan', answers: { 204: null } },
  'POST /api/scans/{name}/run': { summary: 'Run a saved scan', query: finding.scanQuery, answers: { 200: finding.scanResult } },
  'GET /api/scans/{name}/results': { summary: 'What a saved scan has found, run by run', answers: { 200: items(finding.scanResult) } },
  'POST /api/scan': { summary: 'Run a scan that is not saved', query: finding.scanQuery, body: finding.scanRun, answers: { 200: finding.scanResult } },
  'GET /api/scan-progress/{id}': { summary: 'How far the history is that a run makes', answers: { 200: finding.scanProgress } },
  'DELETE /api/scan-progress/{id}': { summary: 'Stop a run that makes history; it is then answered 409', answers: { 204: null } },
  'GET /api/alerts': { summary: 'Alerts', answers: { 200: items(finding.alert) } },
  'POST /api/alerts': { summary: 'Make an alert', body: finding.newAlert, answers: { 201: finding.alert } },
  'GET /api/alerts/{id}': { summary: 'An alert', answers: { 200: finding.alert } },
  'PATCH /api/alerts/{id}': { summary: 'Change or snooze an alert', body: finding.alertChange, answers: { 200: finding.alert } },
  'DELETE /api/alerts/{id}': { summary: 'Delete an alert', answers: { 204: null } },
  'GET /api/conditional-orders': { summary: 'Orders that wait for a condition', answers: { 200: items(finding.conditionalOrder) } },
  'POST /api/conditional-orders': {
    summary: 'Hold an order here until a condition is true',
    body: finding.newConditionalOrder,
    answers: { 200: finding.conditionalOrder, 201: finding.conditionalOrder },
  },
  'GET /api/conditional-orders/{id}': { summary: 'An order that waits for a condition', answers: { 200: finding.conditionalOrder } },
  'DELETE /api/conditional-orders/{id}': { summary: 'Cancel an order that waits for a condition', answers: { 200: finding.conditionalOrder } },
  'GET /api/baskets': { summary: 'Saved baskets', answers: { 200: items(baskets.basket) } },
  'POST /api/baskets': { summary: 'Save a new basket', body: baskets.newBasket, answers: { 201: baskets.basket } },
  'GET /api/baskets/{name}': { summary: 'A saved basket', answers: { 200: baskets.basket } },
  'PUT /api/baskets/{name}': { summary: 'Change a saved basket; it begins anew', body: baskets.basketChange, answers: { 200: baskets.basket } },
  'DELETE /api/baskets/{name}': { summary: 'Delete a saved basket', answers: { 204: null } },
  'POST /api/baskets/{name}/check': {
    summary: 'Check a basket as a whole; sends nothing',
    optionalBody: baskets.checkRequest,
    answers: { 200: baskets.check },
  },
  'POST /api/baskets/{name}/send': { summary: 'Send a basket, or a part of it', body: baskets.sendRequest, answers: { 200: baskets.run, 201: baskets.run } },
  'GET /api/basket-runs': { summary: 'Runs of baskets', query: { basket: { type: 'string', maxLength: 64 } }, answers: { 200: items(baskets.run) } },
  'GET /api/basket-runs/{id}': { summary: 'A run of a basket', answers: { 200: baskets.run } },
  'POST /api/basket-runs/{id}/pause': { summary: 'Send nothing more for now', answers: { 200: baskets.run } },
  'POST /api/basket-runs/{id}/resume': { summary: 'Go on where it was', answers: { 200: baskets.run } },
  'POST /api/basket-runs/{id}/cancel': { summary: 'Cancel what works, skip the rest', answers: { 200: baskets.run } },
  'POST /api/basket-runs/{id}/cancel-and-reverse': { summary: 'Cancel, then turn round what was filled', answers: { 200: baskets.run } },
  'GET /api/options/{underlying}': {
    summary: 'The option chain of an underlying',
    query: { expiry: { type: 'string', pattern: '^\\d{4}-\\d\\d-\\d\\d$' } },
    answers: { 200: options.chain },
  },
  'GET /api/options/{underlying}/held': {
    summary: 'What is held of an underlying and of what follows it, in all of the user’s accounts, and its greeks together',
    answers: { 200: options.held },
  },
  'POST /api/options/value': { summary: 'One option, valued', body: options.valueRequest, answers: { 200: options.value } },
  'POST /api/options/payoff': { summary: 'What legs make at expiry and as of a time', body: options.payoffRequest, answers: { 200: options.payoff } },
  'GET /api/review/round-trips': {
    summary: 'Round trips by the time they closed; each filter repeated for several',
    query: { ...review.filters, newest: review.newest },
    answers: { 200: items(review.roundTrip) },
  },
  'PATCH /api/review/round-trips/{id}': {
    summary: 'Say something of a round trip afterwards',
    body: review.roundTripChange,
    answers: { 200: review.roundTrip },
  },
  'GET /api/review/round-trips/{id}/course': {
    summary: 'How a round trip went: its fills, where its exits stood, what was asked and answered',
    answers: { 200: review.course },
  },
  'GET /api/review/figures': {
    summary: 'Figures of round trips, whole and by groups',
    query: { ...review.filters, by: { type: 'string', enum: GROUPINGS }, points: review.points },
    answers: { 200: review.reviewFigures },
  },
  'GET /api/review/choices': {
    summary: 'What round trips can be chosen by',
    query: { from: review.day, to: review.day, account: id },
    answers: { 200: review.choices },
  },
  'GET /api/review/missed': { summary: 'Opening orders that ended wholly unfilled', query: review.filters, answers: { 200: list(review.missed) } },
  'GET /api/review/recap': {
    summary: 'A day and its week, beside the four before',
    query: { day: review.day, account: id },
    requiredQuery: ['day'],
    answers: { 200: review.recap },
  },
  'GET /api/notes/{day}': { summary: 'What was noted on a day', answers: { 200: review.note } },
  'PUT /api/notes/{day}': { summary: 'Note something on a day', body: review.noteText, answers: { 200: review.note } },
  'GET /api/statements/{account}': {
    summary: 'Every movement of an account’s money, day by day',
    query: {
      from: review.day,
      to: review.day,
      asset: { type: 'string', enum: ASSETS },
      purpose: { type: 'string', enum: PURPOSES },
      format: review.filters.format,
    },
    answers: { 200: backoffice.statement },
  },
  'GET /api/contract-notes/{account}': {
    summary: 'What was done of each order on a day, and what it came to',
    query: { from: review.day, to: review.day, format: review.filters.format },
    answers: { 200: items(backoffice.contractNote) },
  },
  'GET /api/reports/realised/{account}': {
    summary: 'What closing lots made in a year',
    query: { year: { type: 'integer', minimum: 1970, maximum: 9999 }, method: { type: 'string', enum: LOT_METHODS }, format: review.filters.format },
    answers: { 200: backoffice.realised },
  },
  'GET /api/holdings/{account}/shares': {
    summary: 'What share of the holdings is where',
    query: { format: review.filters.format },
    answers: { 200: backoffice.shares },
  },
  'GET /api/cash-requests': { summary: 'Withdrawals and deposits', query: { account: id }, answers: { 200: items(backoffice.cashRequest) } },
  'POST /api/cash-requests': {
    summary: 'Ask for a withdrawal or a deposit',
    body: backoffice.newCashRequest,
    answers: { 200: backoffice.cashRequest, 201: backoffice.cashRequest },
  },
  'DELETE /api/cash-requests/{id}': { summary: 'Take a request back before it is paid', answers: { 200: backoffice.cashRequest } },
  'GET /api/new-issues': { summary: 'New issues that are offered, or were', answers: { 200: items(backoffice.newIssue) } },
  'GET /api/applications': { summary: 'Applications for new issues', query: { account: id }, answers: { 200: items(backoffice.application) } },
  'POST /api/applications': {
    summary: 'Apply for lots of a new issue at a price; cash is tied up until it is allotted',
    body: backoffice.newApplication,
    answers: { 200: backoffice.application, 201: backoffice.application },
  },
  'PATCH /api/applications/{id}': {
    summary: 'Change an application until the issue closes',
    body: backoffice.applicationChange,
    answers: { 200: backoffice.application },
  },
  'DELETE /api/applications/{id}': { summary: 'Take an application back until the issue closes', answers: { 200: backoffice.application } },
  'GET /api/fills': {
    summary: 'Fills',
    query: { ...paging, account: id, instrument: id, format: { type: 'string', enum: ['csv', 'fix'] } },
    answers: { 200: page(orders.fill) },
  },
  'GET /api/positions': { summary: 'Positions', query: { account: id, instrument: id }, answers: { 200: items(accounts.position) } },
  'GET /api/positions/{account}/{instrument}/setup': { summary: 'The setup of what is held', answers: { 200: review.positionSetup } },
  'PUT /api/positions/{account}/{instrument}/setup': {
    summary: 'Say of what setup a position is; its round trip counts there once it is over',
    body: review.setupChange,
    answers: { 200: review.positionSetup },
  },
  'POST /api/positions/{account}/{instrument}/close': {
    summary: 'Close a position',
    body: orders.closeRequest,
    answers: { 200: orders.order, 201: orders.order },
  },
  'POST /api/positions/{account}/{instrument}/reverse': {
    summary: 'Turn a position round',
    body: orders.reverseRequest,
    answers: { 200: orders.order, 201: orders.order },
  },
  'POST /api/flatten': { summary: 'Cancel working orders and close positions', body: orders.flattenRequest, answers: { 200: orders.flattened } },
  'GET /api/activity': { summary: 'The activity log', query: { ...paging, account: id, instrument: id }, answers: { 200: page(accounts.activity) } },
  ...savedOperations('workspaces', 'workspace', saved.workspace),
  ...savedOperations('watchlists', 'watchlist', saved.watchlist),
  ...savedOperations('study-sets', 'study set', saved.studySet),
  ...savedOperations('rule-templates', 'rule template', risk.ruleTemplate),
  'GET /api/settings': { summary: 'How Kavix is set up', answers: { 200: saved.settings } },
  'PUT /api/settings': { summary: 'Set Kavix up', body: saved.settings, answers: { 200: saved.settings } },
  'GET /api/bindings': { summary: 'Keys and what they do', answers: { 200: saved.boundKeys } },
  'PUT /api/bindings': { summary: 'Bind keys, all of them', body: saved.bindings, answers: { 200: saved.boundKeys } },
  'GET /api/drawings/{id}': { summary: 'What is drawn on the charts of an instrument', answers: { 200: saved.drawings } },
  'PUT /api/drawings/{id}': { summary: 'Save what is drawn on the charts of an instrument', body: saved.drawings, answers: { 200: saved.drawings } },
  'GET /api/clock': { summary: 'The market clock', answers: { 200: market.clock } },
  'POST /api/clock': { summary: 'Run the market clock', body: market.clockRequest, answers: { 200: market.clock } },
  'GET /api/link': { summary: 'The links', answers: { 200: market.link } },
  'POST /api/link': { summary: 'Drop or restore a link', body: market.linkRequest, answers: { 200: market.link } },
} as const satisfies Readonly<Record<string, Operation>>;

export type OperationName = keyof typeof OPERATIONS;
