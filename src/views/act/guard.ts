import { sameGhost, type Ghost } from '../../core/orders/index.ts';

/** How long things must have stood still before a press counts, in milliseconds. */
export const STILL_MS = 300;
export const DOUBLE_PRESS_MS = 250;
export const TRAVEL_PX = 4;

/** What is known at the moment of a press. Times are the window's own clock. */
export interface PressFacts {
  readonly now: number;
  /** What else the press did: it woke the window, or closed a popover. */
  readonly spent: 'woke the window' | 'closed a popover' | null;
  /** When target, rows or scale last changed. */
  readonly changedAt: number;
  readonly screenUp: boolean;
  readonly quoteFresh: boolean;
  readonly last: { readonly at: number; readonly key: string } | null;
  /** Names price and side: the same one twice within a moment is one press too many. */
  readonly key: string;
  /** As last painted before the press, and as it would be now. */
  readonly painted: Ghost | null;
  readonly present: Ghost | null;
  /** Why there is no ghost now, in words. */
  readonly reason: string | null;
  readonly crossesZero: string | null;
  /** Closing and flattening go on while only the prices are old. */
  readonly closes: boolean;
}

/**
 * Why a gesture is refused, in words, or null. The first reason that holds, in the order of the rules:
 * woken window, moving ground, lost link, second press, a ghost that is no longer true, crossing zero, the venue.
 */
export function refuseGesture(facts: PressFacts): string | null {
  if (facts.spent !== null) return `that press only ${facts.spent}; press again`;
  if (facts.now - facts.changedAt < STILL_MS) return 'what is under the pointer changed a moment ago; press again';
  if (!facts.screenUp) return 'this screen has no link to Kavix; nothing was sent';
  if (!facts.quoteFresh && !facts.closes) return 'the price is old; nothing was sent';
  if (facts.last && facts.last.key === facts.key && facts.now - facts.last.at < DOUBLE_PRESS_MS)
    return 'a second press at the same price; only the first one counts';
  if (facts.painted === null) return facts.reason ?? 'no order was shown there';
  if (facts.present === null) return `that is no longer possible: ${facts.reason ?? 'the price moved'}`;
  if (!sameGhost(facts.painted, facts.present)) return changeWords(facts.painted, facts.present);
  return facts.crossesZero;
}

function changeWords(painted: Ghost, present: Ghost): string {
  if (painted.effect !== present.effect)
    return `it would have ${painted.effect === 'rests' ? 'rested' : 'filled at once'} and now ${present.effect}; nothing was sent`;
  if (painted.type !== present.type) return `it was a ${painted.type} and would now be a ${present.type}; nothing was sent`;
  return 'what was shown is no longer what would be sent; nothing was sent';
}
