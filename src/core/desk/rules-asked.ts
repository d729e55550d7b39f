import { rulesText, ruleText, changedRules, chained, isLooser, isTighter, locksAt, RULE_NAMES, RULE_WORDS, type Locks, type RuleName } from '../risk/index.ts';
import { invalid, type Refusal } from '../orders/index.ts';
import type { Lodged } from './broker.ts';
import { linkDown, type Decision } from './decision.ts';
import { Drafts } from './drafts.ts';
import type { Facts } from './facts.ts';
import type { Intent } from './intents.ts';
import { refusedEntry } from './place.ts';
import type { AccountState } from './state.ts';
import { sayMoment } from './words.ts';

const MOST_LOCKED_MS = 366 * 86_400_000;
const wordsOf = (names: readonly RuleName[]): string => names.map((name) => RULE_WORDS[name]).join(', ');
const sayTime = (time: number): string => new Date(time).toISOString();

const locked = (state: AccountState, rule: RuleName, until: number): Refusal => ({
  kind: 'locked',
  rule,
  until: sayTime(until),
  detail: `The ${RULE_WORDS[rule]} is locked until ${sayMoment(state, until)}: it can be tightened and locked longer, not loosened.`,
});

/** A whole set of rules. One that loosens a single locked rule is refused whole. */
export function decideSetRules(state: AccountState, intent: Intent & { kind: 'set-rules' }, facts: Facts): Decision {
  const { risk } = state;
  const refuse = (refusal: Refusal): Decision => refusedEntry(state, facts, `rules of ${state.terms.id}`, rulesText(intent.rules), null, null, refusal);
  if (intent.version !== risk.version)
    return refuse({ kind: 'conflict', detail: `The rules are at version ${risk.version}, not ${intent.version}; read them again.`, version: risk.version });
  const names = changedRules(risk.rules, intent.rules);
  const locks = locksAt(risk, facts.now);
  for (const name of names) {
    const until = locks[name];
    if (until !== undefined && isLooser(name, risk.rules, intent.rules)) return refuse(locked(state, name, until));
  }
  const answer = { kind: 'risk' } as const;
  if (names.length === 0) return { entries: [], answer };
  const lodges = names.some((name) => locks[name] !== undefined && isTighter(name, risk.rules, intent.rules));
  if (lodges && facts.link !== 'up') return linkDown();
  const changes = names.map((rule) => ({
    time: facts.now,
    by: state.terms.user,
    rule,
    old: ruleText(rule, risk.rules),
    new: ruleText(rule, intent.rules),
    kind: 'set' as const,
  }));
  const drafts = new Drafts(state, facts, 'user');
  const to = { rules: intent.rules, version: risk.version + 1, changes: [...risk.changes, ...chained(risk.changes, changes)] };
  drafts.say(`Rules of ${state.terms.id} changed: ${wordsOf(names)}.`, { kind: 'risk', to });
  return { entries: drafts.entries, answer, ...(lodges ? { lodge: { rules: intent.rules, locks } } : {}) };
}

/** Locks rules until a time; a lock can only be lengthened. */
export function decideLock(state: AccountState, intent: Intent & { kind: 'lock' }, facts: Facts): Decision {
  const { risk } = state;
  const { until } = intent;
  const refuse = (refusal: Refusal): Decision =>
    refusedEntry(state, facts, `lock of ${state.terms.id}`, { until: sayTime(until), rules: intent.rules }, null, null, refusal);
  if (until <= facts.now) return refuse(invalid('/until', `must be later than ${sayTime(facts.now)}`));
  if (until > facts.now + MOST_LOCKED_MS) return refuse(invalid('/until', `must be at most 366 days ahead, ${sayTime(facts.now + MOST_LOCKED_MS)}`));
  const names = intent.rules ?? RULE_NAMES;
  const before = locksAt(risk, facts.now);
  for (const name of names) {
    const now = before[name];
    if (now !== undefined && until < now) return refuse(locked(state, name, now));
  }
  if (facts.link !== 'up') return linkDown();
  const locks: Locks = { ...before, ...Object.fromEntries(names.map((name) => [name, until])) };
  const changed = names.filter((name) => before[name] !== until);
  const changes = changed.map((rule) => ({
    time: facts.now,
    by: state.terms.user,
    rule,
    old: before[rule] === undefined ? null : sayTime(before[rule]),
    new: sayTime(until),
    kind: before[rule] === undefined ? ('lock' as const) : ('lengthen' as const),
  }));
  const lodge: Lodged = { rules: risk.rules, locks };
  const made = changed.some((name) => before[name] === undefined);
  const drafts = new Drafts(state, facts, 'user');
  drafts.say(`${names.length === RULE_NAMES.length ? 'All rules' : wordsOf(names)} of ${state.terms.id} locked until ${sayMoment(state, until)}.`, {
    kind: 'risk',
    to: { locks, version: risk.version + 1, changes: [...risk.changes, ...chained(risk.changes, changes)] },
  });
  return { entries: drafts.entries, answer: { kind: 'risk', made }, lodge };
}
