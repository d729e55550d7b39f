import { sameGhost, type Ghost } from '../../core/orders/index.ts';

/** How long things must have stood still before a press counts, in milliseconds. */
export const STILL_MS = 300;
/** A press that travels further is a drag. */
export const TRAVEL_PX = 4;

/** What a press did besides: then it was for that, and no order. */
export type Spent = 'woke the window' | 'closed a popover';

/** What was on the screen when it was pressed, and what is there now. */
export interface Evidence {
  /** When target, rows or scale last changed. */
  readonly changedAt: number;
  /** Names price and side: the same one twice within a moment is one press too many. */
  readonly key: string;
  /** As last painted before the press, and as it would be now. */
  readonly painted: Ghost | null;
  readonly present: Ghost | null;
  /** Why there is no ghost now, in words. */
  readonly reason: string | null;
}

/** What is known at the moment of a gesture. Times are the window's own clock. */
export interface GuardFacts {
  readonly now: number;
  readonly spent: Spent | null;
  readonly screenUp: boolean;
  readonly quoteFresh: boolean;
  readonly last: { readonly at: number; readonly key: string } | null;
  /** Within so many milliseconds the same price and side again is one press too many. */
  readonly againMs: number;
  readonly evidence: Evidence | null;
  readonly crossesZero: string | null;
  /** What depends on no price: closing, cancelling and flattening go on while only the prices are old. */
  readonly needsNoPrice: boolean;
  /** Flattening is exempt from all that could keep a trader from it but a lost link. */
  readonly flattens: boolean;
}

/**
 * Why a gesture is refused, in words, or null. The first reason that holds, in the order of the rules:
 * woken window, moving ground, lost link, second press, a ghost that is no longer true, crossing zero, the venue.
 */
export function refuseGesture(facts: GuardFacts): string | null {
  const { now, evidence, last } = facts;
  if (facts.spent !== null && !facts.flattens) return `that press only ${facts.spent}; press again`;
  if (evidence && now - evidence.changedAt < STILL_MS && !facts.flattens) return 'what is under the pointer changed a moment ago; press again';
  if (!facts.screenUp) return 'this screen has no link to Kavix; nothing was sent';
  if (!facts.quoteFresh && !facts.needsNoPrice) return 'the price is old; nothing was sent';
  if (evidence && last && last.key === evidence.key && now - last.at < facts.againMs && !facts.flattens)
    return 'a second press at the same price; only the first one counts';
  if (evidence && evidence.painted === null) return evidence.reason ?? 'no order was shown there';
  if (evidence && evidence.present === null) return `that is no longer possible: ${evidence.reason ?? 'the price moved'}`;
  if (evidence?.painted && evidence.present && !sameGhost(evidence.painted, evidence.present)) return changeWords(evidence.painted, evidence.present);
  return facts.crossesZero;
}

function changeWords(painted: Ghost, present: Ghost): string {
  if (painted.effect !== present.effect)
    return `it would have ${painted.effect === 'rests' ? 'rested' : 'filled at once'} and now ${present.effect}; nothing was sent`;
  if (painted.type !== present.type) return `it was a ${painted.type} and would now be a ${present.type}; nothing was sent`;
  return 'what was shown is no longer what would be sent; nothing was sent';
}
