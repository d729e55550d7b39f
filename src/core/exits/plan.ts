import type { Trail, TriggerSource } from '../market/index.ts';
import type { Money } from '../number/index.ts';

export const MEASURES = ['ticks', 'percent', 'money', 'price'] as const;
export type Measure = (typeof MEASURES)[number];

/** How far an exit lies from the average entry, or where. */
export type Distance =
  | { readonly by: 'ticks'; readonly ticks: number }
  /** Of the average, in 10⁻⁸ percent. */
  | { readonly by: 'percent'; readonly percent: bigint }
  /** For the step's quantity, in what the instrument settles in. */
  | { readonly by: 'money'; readonly value: Money }
  /** An absolute price, as text: which prices there are is known with the instrument. */
  | { readonly by: 'price'; readonly price: string };

/** What moves a stop once the position has gained enough. */
export type Adjustment =
  | { readonly kind: 'break-even'; readonly afterGain: Distance; readonly plusTicks: number }
  | { readonly kind: 'trail'; readonly afterGain: Distance; readonly distance: Trail; readonly incrementTicks: number };

export const LEG_ORDERS = ['market', 'limit'] as const;

/** One of the two ways in which a step ends. */
export interface Leg {
  readonly distance: Distance;
  readonly order: (typeof LEG_ORDERS)[number];
  /** Ticks of a stop's limit behind its stop price; null where it closes by market. */
  readonly offsetTicks: number | null;
  readonly triggerOn: TriggerSource;
  readonly trail: Trail | null;
  readonly adjust: readonly Adjustment[];
}

export interface Step {
  /** In 10⁻⁸ percent. */
  readonly share: bigint;
  readonly stop: Leg | null;
  readonly target: Leg | null;
}

export const SIZE_CHANGES = ['follow', 'keep'] as const;
export const MISSED_LEVELS = ['fire', 'ask'] as const;

/** How a position is left: one to five steps whose shares sum to 100 percent. */
export interface ExitPlan {
  readonly name: string | null;
  /** Asked for by the name of a saved one: what that says now is a copy. */
  readonly byName: boolean;
  readonly heldBy: 'venue' | 'here';
  readonly onSizeChange: (typeof SIZE_CHANGES)[number];
  readonly onMissedLevel: (typeof MISSED_LEVELS)[number];
  readonly steps: readonly Step[];
  /** The setup of entries that go with it and name none of their own. */
  readonly setup?: string;
}

export const LEG_NAMES = ['stop', 'target'] as const;
export type LegName = (typeof LEG_NAMES)[number];
