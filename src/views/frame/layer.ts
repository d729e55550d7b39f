import { atom } from 'nanostores';
import { $bindings, isInForce, type BoundKey } from '../../client/bindings.ts';
import type { Command } from '../../client/keys.ts';
import { $tabs } from '../workspace/documents.ts';
import type { Target } from '../workspace/panes.ts';

export interface Layer {
  readonly target: Target;
  /** Whether it stays open for one order after its key is let go. */
  readonly latched: boolean;
}

/** The held-key mode, while it is open. */
export const $layer = atom<Layer | null>(null);

export const closeLayer = (): void => $layer.set(null);

/** What its keys do now; what is no key of it does nothing while it is open. */
export const layerKeys: { now: readonly Command[] } = { now: [] };

/** The bound keys that are in force in the workspace that is shown. */
export const boundNow = (): BoundKey[] => $bindings.get().items.filter((key) => isInForce(key, $tabs.get().current));
