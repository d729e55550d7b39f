import type { Instrument, Price } from '../../core/instrument/index.ts';
import { $positions, positionKey, type ApiOrder } from '../../live/index.ts';
import { answer } from '../answers.ts';
import { quotesFresh, screenUp } from '../lamps.ts';
import { $directSend, type Surface } from '../session.ts';
import { $settings } from '../settings.ts';
import { noteOrderAct } from '../undo.ts';
import * as door from './door.ts';
import type { GestureIntent, OrderWish } from './intent.ts';
import { moveChange, orderMovedTo } from './moves.ts';
import { spentOn } from './presses.ts';
import { openSlip } from './slip.ts';
import { makeSubmit, opensSlip, type Gesture } from './submit.ts';

export { OrderArea, type AreaHost, type Shown } from './area.ts';
export { STILL_MS, TRAVEL_PX } from './guard.ts';
export { crossing, reduces, type GestureIntent, type OrderWish } from './intent.ts';
export { orderMovedTo, waitsForStop } from './moves.ts';
export { notePopoverClosed, watchPresses } from './presses.ts';
export { $slip, closeSlip, openSlip, type Slip } from './slip.ts';
export type { Gesture, Submitted } from './submit.ts';

export const heldOf = (account: string, instrument: string): number => Number($positions.get()[positionKey(account, instrument)]?.quantity ?? 0);

/** What was done with orders, for who wants to take it back: that is not possible, and is said. */
const ACT_WORDS: Readonly<Record<GestureIntent['kind'], string>> = {
  place: 'an order was sent',
  change: 'an order was changed',
  cancel: 'an order was cancelled',
  'cancel-many': 'orders were cancelled',
  close: 'a position was closed',
  flatten: 'it was flattened',
};

async function send(pane: string, intent: GestureIntent): Promise<boolean> {
  noteOrderAct(ACT_WORDS[intent.kind]);
  switch (intent.kind) {
    case 'place': {
      const sent = await door.place(pane, intent.wish);
      return sent.ok || sent.problem.status === 0;
    }
    case 'change':
      await door.change(pane, intent.order, intent.change);
      return true;
    case 'cancel':
      return (await door.cancel(pane, intent.order)).ok;
    case 'cancel-many':
      return (await door.cancelMany(pane, intent.account, intent.instrument, intent.side)).ok;
    case 'close':
      return (await door.close(pane, intent.account, intent.instrument)).ok;
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
  openSlip,
  send,
});

/** Whether an order from a surface would be sent at once, as direct send is set there and as what is held stands. */
export const sendsAtOnce = (from: Surface, wish: OrderWish): boolean =>
  !opensSlip(from, { kind: 'place', wish }, heldOf(wish.account, wish.instrument), { directSend: (surface) => $directSend.get()[surface] });

/** A gesture with no price under the pointer: a button, a key, a cross. */
export const act = (pane: string, from: Gesture['from'], intent: GestureIntent) => submit({ pane, from, intent, evidence: null });

/** An order let go at another price moves there, if that is legal. */
export function moveOrder(pane: string, from: Surface, order: ApiOrder, price: Price, instrument: Instrument): void {
  const moved = orderMovedTo(order, price, instrument);
  if (!moved.ok) refuse(pane, moved.refusal);
  else act(pane, from, { kind: 'change', order, change: moveChange(order, price, instrument) });
}
