import type { Instrument, Price } from '../../core/instrument/index.ts';
import { $positions, positionKey, type Answer, type LiveOrder } from '../../live/index.ts';
import { answer } from '../answers.ts';
import { askConsent } from '../consent.ts';
import { planFor } from '../exit-plans.ts';
import { quotesFresh, screenUp } from '../lamps.ts';
import { $directSend, type Surface } from '../session.ts';
import { $settings } from '../settings.ts';
import { noteOrderAct, type Offer } from '../undo.ts';
import { changeBack, wishAsItWas } from './as-it-was.ts';
import * as door from './door.ts';
import { orderWords, reduces, type GestureIntent, type OrderWish } from './intent.ts';
import { moveChange, orderMovedTo } from './moves.ts';
import { spentOn } from './presses.ts';
import type { BreakoutPair } from './breakout.ts';
import { openPair as openBoth, openSlip as open } from './slip.ts';
import { makeSubmit, opensSlip, planOn, type Gesture } from './submit.ts';

export { OrderArea, type AreaHost, type Shown } from './area.ts';
export { STILL_MS, TRAVEL_PX } from './guard.ts';
export { crossing, reduces, type GestureIntent, type OrderWish, type RunAct } from './intent.ts';
export { orderMovedTo, waitsAt, waitsForStop } from './moves.ts';
export { breakoutPair, pairBounds, type BreakoutPair } from './breakout.ts';
export { exitMoney, pulledExit, pulledPlan, wholeExit, type PulledExit } from './position-exit.ts';
export { notePopoverClosed, watchPresses } from './presses.ts';
export { $slip, closeSlip, type OrderSlip, type PairSlip, type Slip } from './slip.ts';
export type { Gesture, Submitted } from './submit.ts';

export const heldOf = (account: string, instrument: string): number => $positions.get()[positionKey(account, instrument)]?.units.quantity ?? 0;

/** What was done with orders, for who wants to take it back: that is not possible, and is said. */
const ACT_WORDS: Readonly<Record<GestureIntent['kind'], string>> = {
  place: 'an order was sent',
  'place-pair': 'a breakout pair was sent',
  change: 'an order was changed',
  cancel: 'an order was cancelled',
  'cancel-many': 'orders were cancelled',
  close: 'a position was closed',
  reverse: 'a position was reversed',
  link: 'orders were linked',
  'put-plan': 'an exit plan was put on a position',
  'stop-plan': 'an exit plan was stopped',
  'move-leg': 'an exit held here was moved',
  'answer-plan': 'an exit plan was answered',
  wait: 'an order was left to wait',
  'end-wait': 'a waiting order was ended',
  'send-basket': 'a basket was sent',
  'steer-run': 'the run of a basket was changed',
  flatten: 'it was flattened',
};

const partOf = ({ percent, quantity }: { readonly percent?: string; readonly quantity?: string }): { percent?: string; quantity?: string } => ({
  ...(percent === undefined ? {} : { percent }),
  ...(quantity === undefined ? {} : { quantity }),
});

/** What lacks the consent to exits held here waits for the question, and is sent once it is given. */
function agreed(answer: Answer<unknown>, pane: string, intent: GestureIntent): boolean {
  if (!answer.ok && answer.problem.needs === 'held-here') askConsent(() => void send(pane, intent));
  return answer.ok;
}

/** What can be done about an order that was cancelled or changed, with its old values. */
function offerOf(pane: string, intent: GestureIntent): Offer | null {
  if (intent.kind !== 'cancel' && intent.kind !== 'change') return null;
  const { order } = intent;
  if (intent.kind === 'cancel') return { words: `a slip with ${orderWords(order)}`, run: () => open(pane, wishAsItWas(order)) };
  const change = changeBack(order, intent.change);
  return change && { words: `change it back to ${orderWords(order)}`, run: () => void act(pane, 'rail', { kind: 'change', order, change }) };
}

async function send(pane: string, intent: GestureIntent): Promise<boolean> {
  noteOrderAct(ACT_WORDS[intent.kind], offerOf(pane, intent));
  switch (intent.kind) {
    case 'place': {
      const sent = await door.place(pane, intent.wish);
      agreed(sent, pane, intent);
      return sent.ok || sent.problem.status === 0;
    }
    case 'place-pair':
      return agreed(await door.placePair(pane, intent.pair), pane, intent);
    case 'change':
      await door.change(pane, intent.order, intent.change);
      return true;
    case 'cancel':
      return (await door.cancel(pane, intent.order)).ok;
    case 'cancel-many':
      return (await door.cancelMany(pane, intent.account, intent.instrument, intent.side)).ok;
    case 'close':
      return (await door.close(pane, intent.account, intent.instrument, partOf(intent))).ok;
    case 'reverse':
      return (await door.reverse(pane, intent.account, intent.instrument)).ok;
    case 'link':
      return (await door.link(pane, intent.orders)).ok;
    case 'put-plan':
      return agreed(await door.putPlan(pane, intent.account, intent.instrument, intent.plan), pane, intent);
    case 'stop-plan':
      return (await door.stopPlan(pane, intent.plan)).ok;
    case 'move-leg':
      return (await door.moveLeg(pane, intent.leg, intent.price)).ok;
    case 'answer-plan':
      return (await door.answerPlan(pane, intent.plan, intent.act)).ok;
    case 'wait':
      return agreed(await door.waitForAll(pane, intent.when, intent.orders), pane, intent);
    case 'end-wait':
      return (await door.endWait(pane, intent.waiting)).ok;
    case 'send-basket':
      return (await door.sendBasket(pane, intent.basket, intent.percent, intent.pace)).ok;
    case 'steer-run':
      return (await door.steerRun(pane, intent.run, intent.act)).ok;
    case 'flatten':
      return (await door.flatten(pane, intent.account, intent.instrument)).ok;
    default:
      return intent satisfies never;
  }
}

const refuse = (pane: string, words: string): void => answer(pane, 'refused', words);

/** This window's gestures. */
export const submit = makeSubmit({
  now: () => performance.now(),
  spent: spentOn,
  screenUp,
  quotesFresh,
  held: heldOf,
  directSend: (surface) => $directSend.get()[surface],
  againMs: () => $settings.get().againMs,
  refuse,
  openSlip: open,
  send,
  planFor,
});

/** Whether an order from a surface would be sent at once, as direct send is set there and as what is held stands. */
export const sendsAtOnce = (from: Surface, wish: OrderWish): boolean =>
  !opensSlip(from, { kind: 'place', wish }, heldOf(wish.account, wish.instrument), { directSend: (surface) => $directSend.get()[surface] });

/** The exit plan that an order of a gesture would go with. */
export const planOnWish = (wish: OrderWish): string | null => planOn(wish, heldOf(wish.account, wish.instrument), { planFor });

/** Opens the slip with an order that nothing was pressed for, the plan of the plate on it. */
export function openSlip(pane: string, wish: OrderWish): void {
  open(pane, withPlatePlan(wish));
}

/** Opens the slip of a breakout pair, the plan of the plate on both. */
export const openPair = (pane: string, [buy, sell]: BreakoutPair): void => openBoth(pane, [withPlatePlan(buy), withPlatePlan(sell)]);

function withPlatePlan(wish: OrderWish): OrderWish {
  const plan = planOnWish(wish);
  return plan === null ? wish : { ...wish, exitPlan: plan };
}

/** An order as it can go: what only reduces takes no exit plan along. */
export function fitting(wish: OrderWish): OrderWish {
  if (!reduces(wish, heldOf(wish.account, wish.instrument)) && wish.reduceOnly !== true) return wish;
  const { exitPlan: _plan, ...rest } = wish;
  return rest;
}

/** A gesture with no price under the pointer: a button, a key, a cross. */
export const act = (pane: string, from: Gesture['from'], intent: GestureIntent) => submit({ pane, from, intent, evidence: null });

/** An order let go at another price moves there, if that is legal. */
export function moveOrder(pane: string, from: Surface, order: LiveOrder, price: Price, instrument: Instrument): void {
  const moved = orderMovedTo(order, price, instrument);
  if (!moved.ok) refuse(pane, moved.refusal);
  else act(pane, from, { kind: 'change', order, change: moveChange(order, price, instrument) });
}
