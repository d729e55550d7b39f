/** The schemas by what they are of, and the types that follow from them. */
export * as accounts from './accounts.ts';
export * as backoffice from './backoffice.ts';
export * as baskets from './baskets.ts';
export * as exits from './exits.ts';
export * as finding from './finding.ts';
export * as market from './market.ts';
export * as options from './options.ts';
export * as orders from './orders.ts';
export * as review from './review.ts';
export * as risk from './risk.ts';
export type { ShapeOf } from './values.ts';
