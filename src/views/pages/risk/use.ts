import type { BlockingRule } from '../../../core/risk/index.ts';

/** From so much of a rule on its use asks for a look. */
export const NEAR = 0.75;

/** What a use is drawn in: used up, near it, or neither. */
export const inkOfUse = (share: number): string => (share >= 1 ? 'var(--crimson)' : share >= NEAR ? 'var(--heather)' : 'var(--quiet)');

/** What figures of a rule are followed by: most tell their unit by their name. */
export const unitOf = (rule: BlockingRule): string => (rule === 'maxDistancePercent' ? ' %' : '');
