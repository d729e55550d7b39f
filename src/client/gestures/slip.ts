import { atom } from 'nanostores';
import type { BreakoutPair } from './breakout.ts';
import type { OrderWish } from './intent.ts';

interface Opened {
  readonly pane: string;
  readonly openedAt: number;
}

/** The order under review: seeded with exactly what was pressed; it never follows a link. */
export interface OrderSlip extends Opened {
  readonly kind: 'order';
  readonly wish: OrderWish;
}

/** Both legs of a breakout pair under review, which go as one group. */
export interface PairSlip extends Opened {
  readonly kind: 'pair';
  readonly pair: BreakoutPair;
}

export type Slip = OrderSlip | PairSlip;

export const $slip = atom<Slip | null>(null);

export const openSlip = (pane: string, wish: OrderWish): void => $slip.set({ kind: 'order', pane, wish, openedAt: performance.now() });
export const openPair = (pane: string, pair: BreakoutPair): void => $slip.set({ kind: 'pair', pane, pair, openedAt: performance.now() });
export const closeSlip = (): void => $slip.set(null);
