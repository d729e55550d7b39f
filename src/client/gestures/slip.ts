import { atom } from 'nanostores';
import type { OrderWish } from './intent.ts';

/** The order under review: seeded with exactly what was pressed; it never follows a link. */
export interface Slip {
  readonly pane: string;
  readonly wish: OrderWish;
  readonly openedAt: number;
}

export const $slip = atom<Slip | null>(null);

export const openSlip = (pane: string, wish: OrderWish): void => $slip.set({ pane, wish, openedAt: performance.now() });
export const closeSlip = (): void => $slip.set(null);
