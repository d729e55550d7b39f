import type { BlockingRule, RuleName } from '../risk/index.ts';
/** One thing that is wrong with a request, as the API tells it. */
export interface FieldProblem {
  /** JSON pointer into the body, or `?name` of a query parameter. */
  readonly path: string;
  readonly message: string;
  /** The nearest accepted values, as decimal strings. */
  readonly nearest?: readonly string[];
}

/** What would be accepted instead of a refused order. */
export type Suggestion =
  | { readonly type: string; readonly limitPrice: string }
  | { readonly reduce: { readonly quantity: string }; readonly cross: { readonly crossesZero: true } | null };

/** Why a call is refused; the kinds are those of the API's problems. */
export type Refusal =
  | { readonly kind: 'validation'; readonly errors: readonly FieldProblem[]; readonly suggestion?: Suggestion }
  | { readonly kind: 'conflict'; readonly detail: string; readonly state?: string; readonly version?: number; readonly needs?: 'held-here' }
  | { readonly kind: 'not-found'; readonly detail: string }
  | {
      readonly kind: 'risk-blocked';
      readonly rule: BlockingRule;
      readonly rules: readonly BlockingRule[];
      readonly instrument: string | null;
      readonly until: string | null;
      readonly detail: string;
      readonly buyingPower?: string;
    }
  | { readonly kind: 'locked'; readonly rule: RuleName; readonly until: string; readonly detail: string }
  | { readonly kind: 'venue-rejected'; readonly detail: string }
  | { readonly kind: 'unavailable'; readonly detail: string };

export const invalid = (path: string, message: string, nearest?: readonly string[]): Refusal => ({
  kind: 'validation',
  errors: [nearest ? { path, message, nearest } : { path, message }],
});

/** A refusal in one line of words. */
export function refusalText(refusal: Refusal): string {
  return refusal.kind === 'validation' ? refusal.errors.map((error) => `${error.path.slice(1)}: ${error.message}`).join('; ') : refusal.detail;
}
