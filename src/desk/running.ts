import type { Desk } from './desk.ts';
import type { Consents } from './consents.ts';
import type { Baskets } from './baskets/baskets.ts';
import type { Finding } from './finding/finding.ts';
import type { Past } from './review/past.ts';
import type { Review } from './review/review.ts';
import type { SavedStore } from './saved.ts';

/** What the pages find of the running program. */
export interface Running<Access = unknown> {
  readonly desk: Desk;
  readonly access: Access;
  readonly saved: SavedStore;
  readonly consents: Consents;
  readonly finding: Finding;
  readonly baskets: Baskets;
  readonly review: Review;
  readonly past: Past;
}

const KEY = Symbol.for('kavix.desk');

/** The running program, or null while it starts. Pages and start are bundled apart: the global is what they share. */
export const running = <Access>(): Running<Access> | null => ((globalThis as Record<symbol, unknown>)[KEY] as Running<Access> | undefined) ?? null;

export function setRunning(value: Running | null): void {
  (globalThis as Record<symbol, unknown>)[KEY] = value ?? undefined;
}
