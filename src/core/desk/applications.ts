import { formatPrice, gridCeil, gridFloor, type Price } from '../instrument/index.ts';
import { formatMoney, minus, plus, NO_MONEY, type Money } from '../number/index.ts';
import { invalid, type Refusal } from '../orders/index.ts';
import { mayTrade, tiedUp, type Application, type NewIssue } from '../portfolio/index.ts';
import { answered, linkDown, stillReconciling, type Decision } from './decision.ts';
import { Drafts } from './drafts.ts';
import { buyingPower } from './exposure.ts';
import type { Facts } from './facts.ts';
import type { Intent } from './intents.ts';
import { refusedEntry } from './place.ts';
import type { AccountState } from './state.ts';

const closed = ({ id }: NewIssue): Refusal => ({ kind: 'conflict', detail: `Applications for ${id} are no longer taken, changed or taken back.` });

/** What may be tied up besides: no more than cash, nor than what nothing else claims; what is on its way counts. */
function freeFor(state: AccountState, facts: Facts): Money {
  const power = buyingPower(state, facts);
  const free = state.book.cash < power ? state.book.cash : power;
  return [...state.applications.values()].reduce((left, { application, had }) => {
    const instrument = facts.instrument(application.issue);
    const tied = had ? tiedUp(instrument, had) : NO_MONEY;
    const asked = tiedUp(instrument, application);
    return asked > tied ? minus(left, minus(asked, tied)) : left;
  }, free);
}

/** What is wrong with lots at a price, or null. `tied` is what the application has tied up already. */
function problemWith(state: AccountState, issue: NewIssue, lots: number, price: Price, tied: Money, facts: Facts): Refusal | null {
  const instrument = facts.instrument(issue.id);
  const words = (at: Price): string => formatPrice(instrument, at);
  if (lots < 1 || lots > issue.mostLots) return invalid('/lots', `must be 1 to ${issue.mostLots}`);
  if (price < issue.low || price > issue.high) return invalid('/price', `must be ${words(issue.low)} to ${words(issue.high)}`);
  const nearest = [gridFloor(instrument, price), gridCeil(instrument, price)];
  if (nearest[0] !== price) return invalid('/price', 'must be on the grid', nearest.map(words));
  const needs = tiedUp(instrument, { lots, lot: issue.lot, price, state: 'requested' });
  const most = plus(freeFor(state, facts), tied);
  if (needs <= most) return null;
  return invalid('/lots', `tie up ${formatMoney(needs, 'EUR')} EUR; free are ${formatMoney(most < 0n ? NO_MONEY : most, 'EUR')}`);
}

const said = (application: Pick<Application, 'lots' | 'lot' | 'price' | 'issue'>, facts: Facts): string => {
  const { lots, lot, price, issue } = application;
  return `${lots} × ${lot} ${issue} at ${formatPrice(facts.instrument(issue), price)}`;
};

/** Applies for shares of a new issue. */
export function decideApply(state: AccountState, intent: Intent & { kind: 'apply' }, facts: Facts): Decision {
  const { issue, lots, price, clientRequestId } = intent;
  const mine = [...state.applications.values()].map(({ application }) => application);
  const known = clientRequestId === null ? undefined : mine.find((one) => one.clientRequestId === clientRequestId);
  if (known) {
    const same = known.issue === issue.id && known.first.lots === lots && known.first.price === price;
    if (same) return { entries: [], answer: { kind: 'application', applicationId: known.id, made: false } };
    return answered({ kind: 'conflict', detail: `${known.clientRequestId} has been used for another application.` });
  }
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return stillReconciling();
  const refuse = (refusal: Refusal): Decision =>
    refusedEntry(
      state,
      facts,
      `application for ${said({ lots, lot: issue.lot, price, issue: issue.id }, facts)}`,
      { issue: issue.id, lots },
      null,
      null,
      refusal,
    );
  if (state.terms.wallets.length > 0 || !mayTrade(state.terms, facts.instrument(issue.id)))
    return refuse(invalid('/account', `${state.terms.id} can't hold ${issue.id}`));
  if (facts.now < issue.opensAt || facts.now >= issue.closesAt) return refuse(closed(issue));
  if (mine.some((one) => one.issue === issue.id && one.state === 'requested'))
    return refuse({ kind: 'conflict', detail: `${state.terms.id} has applied for ${issue.id} already; change that application.` });
  const problem = problemWith(state, issue, lots, price, NO_MONEY, facts);
  if (problem) return refuse(problem);
  const drafts = new Drafts(state, facts, 'user');
  const number = drafts.take();
  const id = `${state.terms.id}-n${number}`;
  const application: Application = {
    id,
    clientRequestId: clientRequestId ?? id,
    account: state.terms.id,
    issue: issue.id,
    lot: issue.lot,
    lots,
    price,
    first: { lots, price },
    revision: 1,
    state: 'requested',
    allottedLots: null,
    issuePrice: null,
    requestedAt: facts.now,
    changedAt: facts.now,
  };
  drafts.say(`Applied for ${said(application, facts)}.`, { kind: 'application-requested', number, application });
  return { entries: drafts.entries, answer: { kind: 'application', applicationId: id, made: true } };
}

/** Changes lots or price of an application that is still open. */
export function decideChangeApplication(state: AccountState, intent: Intent & { kind: 'change-application' }, facts: Facts): Decision {
  const { issue, applicationId } = intent;
  const open = openApplication(state, applicationId, issue, facts);
  if ('entries' in open) return open;
  const lots = intent.lots ?? open.lots;
  const price = intent.price ?? open.price;
  if (lots === open.lots && price === open.price) return { entries: [], answer: { kind: 'application', applicationId, made: false } };
  const problem = problemWith(state, issue, lots, price, tiedUp(facts.instrument(issue.id), open), facts);
  if (problem) return refusedEntry(state, facts, `change of ${applicationId}`, { lots }, null, null, problem);
  const drafts = new Drafts(state, facts, 'user');
  const application: Application = { ...open, lots, price, revision: open.revision + 1, changedAt: facts.now };
  drafts.say(`Application changed: ${said(application, facts)}.`, { kind: 'application-requested', number: drafts.take(), application });
  return { entries: drafts.entries, answer: { kind: 'application', applicationId, made: false } };
}

/** Takes an application back while it is still open. */
export function decideTakeBack(state: AccountState, intent: Intent & { kind: 'take-back-application' }, facts: Facts): Decision {
  const { issue, applicationId } = intent;
  const known = state.applications.get(applicationId);
  const answer = { kind: 'application', applicationId, made: false } as const;
  if (known && (known.application.state === 'canceled' || known.back)) return { entries: [], answer };
  const open = openApplication(state, applicationId, issue, facts);
  if ('entries' in open) return open;
  const drafts = new Drafts(state, facts, 'user');
  drafts.say(`Taken back: the application for ${said(open, facts)}.`, { kind: 'application-back-requested', number: drafts.take(), applicationId });
  return { entries: drafts.entries, answer };
}

/** An application that may still be changed, or why it may not. */
function openApplication(state: AccountState, applicationId: string, issue: NewIssue, facts: Facts): Application | Decision {
  const known = state.applications.get(applicationId);
  if (!known) return answered({ kind: 'not-found', detail: `There is no application ${applicationId}.` });
  const { application, back } = known;
  if (application.state !== 'requested' || back)
    return answered({
      kind: 'conflict',
      detail: `The application is ${application.state === 'requested' ? 'taken back' : application.state}.`,
      state: application.state,
    });
  if (facts.now >= issue.closesAt) return answered(closed(issue));
  if (facts.link === 'down') return linkDown();
  if (facts.link === 'reconciling') return { entries: [], answer: { kind: 'waits' } };
  return application;
}
