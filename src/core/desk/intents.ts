import type { Price, Quantity } from '../instrument/index.ts';
import type { Money } from '../number/index.ts';
import type { CashRequestKind, NewIssue } from '../portfolio/index.ts';
import type { Side } from '../market/index.ts';
import type { ExitPlan, LegName } from '../exits/index.ts';
import type { RiskRules, RuleName } from '../risk/index.ts';
import type { OrderChange, OrderGroup, OrderIntent, ReasonCode, Refusal } from '../orders/index.ts';

/** How much of a position is to be closed. `share` is in 10⁻⁸ percent. */
export type CloseAmount =
  { readonly kind: 'all' } | { readonly kind: 'quantity'; readonly quantity: Quantity } | { readonly kind: 'percent'; readonly share: bigint };

/** What a trader asks of an account, in exact units. Read once at the edge. */
export type Intent =
  | { readonly kind: 'place'; readonly order: OrderIntent }
  /** Several orders in one decision, each for itself: one that is refused keeps none of the others back. */
  | { readonly kind: 'place-many'; readonly orders: readonly OrderIntent[] }
  | { readonly kind: 'place-group'; readonly orders: readonly OrderIntent[]; readonly onPartialFill: OrderGroup['onPartialFill'] | null }
  | { readonly kind: 'link-orders'; readonly orderIds: readonly string[]; readonly onPartialFill: OrderGroup['onPartialFill'] | null }
  | { readonly kind: 'replace'; readonly orderId: string; readonly change: OrderChange; readonly version: number | null; readonly clientOrderId: string | null }
  /** `reasonCode` of what asks for it besides the trader. */
  | { readonly kind: 'cancel'; readonly orderId: string; readonly reasonCode?: ReasonCode }
  | { readonly kind: 'cancel-many'; readonly instrument: string | null; readonly side: Side | null }
  | { readonly kind: 'close'; readonly instrument: string; readonly amount: CloseAmount; readonly clientOrderId: string | null }
  | { readonly kind: 'reverse'; readonly instrument: string; readonly clientOrderId: string | null }
  | { readonly kind: 'put-plan'; readonly instrument: string; readonly plan: ExitPlan }
  | { readonly kind: 'stop-plan'; readonly planId: string }
  /** A leg that waits here, to another price. `step` counts from 0. */
  | { readonly kind: 'move-leg'; readonly planId: string; readonly step: number; readonly leg: LegName; readonly price: Price }
  | { readonly kind: 'answer-plan'; readonly planId: string; readonly act: 'fire' | 'resume' }
  | { readonly kind: 'set-rules'; readonly rules: RiskRules; readonly version: number }
  /** Rules by name until a time; null is all. */
  | { readonly kind: 'lock'; readonly until: number; readonly rules: readonly RuleName[] | null }
  | { readonly kind: 'flatten'; readonly instrument: string | null }
  /** Money to be paid out or taken in. */
  | { readonly kind: 'cash'; readonly cashKind: CashRequestKind; readonly amount: Money; readonly clientRequestId: string | null }
  | { readonly kind: 'cash-back'; readonly requestId: string }
  /** Shares of a new issue: asked for, asked for otherwise, no longer asked for. What is null stands. */
  | { readonly kind: 'apply'; readonly issue: NewIssue; readonly lots: number; readonly price: Price; readonly clientRequestId: string | null }
  | {
      readonly kind: 'change-application';
      readonly applicationId: string;
      readonly issue: NewIssue;
      readonly lots: number | null;
      readonly price: Price | null;
    }
  | { readonly kind: 'take-back-application'; readonly applicationId: string; readonly issue: NewIssue }
  /** Something said of a round trip afterwards; what is left out stands. */
  | { readonly kind: 'mark-trip'; readonly trip: string; readonly instrument: string; readonly setup?: string | null; readonly note?: string | null }
  /** What was asked could not be read as any of these; it leaves its trace and is refused. */
  | {
      readonly kind: 'unreadable';
      readonly what: string;
      readonly asked: unknown;
      readonly instrument: string | null;
      readonly orderId: string | null;
      readonly refusal: Refusal;
    };
