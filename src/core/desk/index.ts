export type { BrokerCommand, BrokerReport, BrokerStatus, KnownOrder, Lodged, MarketRow, PriceRow, Settlement } from './broker.ts';
export { type Asked, type Draft, type Entry, type EntryBy, type EntryData, type HistoryLine, ENTRY_BY, causeOf } from './entries.ts';
export {
  type AccountState,
  type Fill,
  type FoldFacts,
  type SavedAccount,
  type Touched,
  type Working,
  asIfWorking,
  foldEntry,
  loadAccount,
  keepFollowing,
  keepPlan,
  newAccountState,
  orderOf,
  saveAccount,
} from './state.ts';
export { type PositionRisk, buyingPower, feeEstimate, markedInstruments, openRiskOf, tiedUpIn } from './exposure.ts';
export { type BookLevel, type BrokerLinkState, type Facts, type Needs, type VisibleBook } from './facts.ts';
export { type Answer, type Decision, type RefusedOrder, type Requested } from './decision.ts';
export { type CloseAmount, type Intent } from './intents.ts';
export { type Case, type Check, type Judgement, judgeOrder } from './gate.ts';
export { closingTerms } from './drafts.ts';
export { consentMissing } from './exits.ts';
export { legStands } from './plans.ts';
export { type Estimate, estimateOrder } from './estimate.ts';
export { type AccountEvent, armedInstruments, commandOf, decide, hasRules, needsOf, nextWake, followedInstruments } from './decide.ts';
export { type DayFiguresEur, dayFigures, leftOfDay, totalOpenRisk } from './day.ts';
export { dayEnd, openRiskOfOrder, openRiskOfWorking } from './rule-checks.ts';
