import type { Surface, DirectSend } from '../session.ts';
import { refuseGesture, type Evidence, type Spent } from './guard.ts';
import { crossing, reduces, type GestureIntent, type OrderWish } from './intent.ts';

/** Something done in a pane: what is meant, from where, and what was shown when it was done. */
export interface Gesture {
  readonly pane: string;
  /** Where it was done, for direct send; *review* is the slip and the ticket, where what is sent was read before. */
  readonly from: Surface | 'review' | 'rail';
  /** Null where nothing was possible: it is refused with the reason. */
  readonly intent: GestureIntent | null;
  /** What was painted where it was pressed; null for what has no price under the pointer. */
  readonly evidence: Evidence | null;
  /** The slip opens in every setting. */
  readonly always?: 'slip';
}

/** What became of it. `sent` resolves once the call is answered, or known to be lost. */
export type Submitted =
  { readonly kind: 'refused'; readonly words: string } | { readonly kind: 'slip' } | { readonly kind: 'sent'; readonly done: Promise<boolean> };

/** All that a gesture is judged by and can do; the window's own in {@link ./index.ts}, made up in tests. */
export interface Surroundings {
  now(): number;
  /** What the press in progress did besides. */
  spent(): Spent | null;
  screenUp(): boolean;
  quotesFresh(): boolean;
  /** The signed quantity held. */
  held(account: string, instrument: string): number;
  directSend(surface: Surface): DirectSend;
  /** Within so many milliseconds the same press again is refused. */
  againMs(): number;
  refuse(pane: string, words: string): void;
  openSlip(pane: string, wish: OrderWish): void;
  /** The exit plan on the plate: it goes on every entry of an instrument in an account. */
  planFor(account: string, instrument: string): string | null;
  /** Sends at once; true where the server took it or may have taken it. */
  send(pane: string, intent: GestureIntent): Promise<boolean>;
}

/**
 * The one way from a gesture to an order: guards it, then opens the slip or sends, as direct send is set for where it
 * was done. Nothing else calls an order endpoint.
 */
export function makeSubmit(around: Surroundings): (gesture: Gesture) => Submitted {
  let last: { at: number; key: string } | null = null;
  return (gesture) => {
    const { pane, from, evidence } = gesture;
    const now = around.now();
    const bare = gesture.intent?.kind === 'place' ? gesture.intent.wish : null;
    const held = bare ? around.held(bare.account, bare.instrument) : 0;
    const wish = bare && (from === 'review' ? bare : withPlan(bare, held, around));
    const intent = wish ? ({ kind: 'place', wish } as const) : gesture.intent;
    const closes = wish !== null && wish.reduceOnly === true && wish.type === 'market';
    const words = refuseGesture({
      now,
      spent: from === 'review' ? null : around.spent(),
      screenUp: around.screenUp(),
      quoteFresh: around.quotesFresh(),
      last,
      againMs: around.againMs(),
      evidence,
      crossesZero: wish && !wish.reduceOnly && !wish.crossesZero ? crossing(wish, held) : null,
      needsNoPrice: from === 'review' || closes || (intent !== null && !PRICED.has(intent.kind)),
      flattens: intent?.kind === 'flatten',
    });
    if (evidence) last = { at: now, key: evidence.key };
    if (words !== null || intent === null) {
      const why = words ?? 'nothing was sent';
      around.refuse(pane, why);
      return { kind: 'refused', words: why };
    }
    const slip = gesture.always === 'slip' || opensSlip(from, intent, held, around);
    if (slip && wish) {
      around.openSlip(pane, wish);
      return { kind: 'slip' };
    }
    if (slip && intent.kind === 'close') {
      around.openSlip(pane, closingWish(intent, around.held(intent.account, intent.instrument)));
      return { kind: 'slip' };
    }
    return { kind: 'sent', done: around.send(pane, intent) };
  };
}

/** What is decided by a price that the trader saw. */
const PRICED: ReadonlySet<GestureIntent['kind']> = new Set(['place', 'change', 'move-leg']);

/** The plan of the plate, where a wish is an entry that has none of its own. */
export const planOn = (wish: OrderWish, held: number, around: Pick<Surroundings, 'planFor'>): string | null =>
  wish.exitPlan === undefined && wish.reduceOnly !== true && !reduces(wish, held) ? around.planFor(wish.account, wish.instrument) : null;

/** An entry with the plan of the plate on it. */
function withPlan(wish: OrderWish, held: number, around: Pick<Surroundings, 'planFor'>): OrderWish {
  const plan = planOn(wish, held, around);
  return plan === null ? wish : { ...wish, exitPlan: plan };
}

/** Whether a gesture would open the slip, as direct send is set for where it is done. */
export function opensSlip(from: Gesture['from'], intent: GestureIntent, held: number, around: Pick<Surroundings, 'directSend'>): boolean {
  if (from === 'review' || from === 'rail') return false;
  const direct = around.directSend(from);
  if (intent.kind === 'place') return direct === 'off' || (direct === 'exits only' && !reduces(intent.wish, held));
  return intent.kind === 'close' && direct === 'off';
}

const closingWish = ({ account, instrument }: { account: string; instrument: string }, held: number): OrderWish => ({
  account,
  instrument,
  side: held > 0 ? 'sell' : 'buy',
  type: 'market',
  quantity: String(Math.abs(held)),
  reduceOnly: true,
});
