import type { AnswerOf } from '../live/index.ts';
import type { GestureIntent, OrderWish } from './gestures/intent.ts';

export type PhraseReading = AnswerOf<'POST /api/phrases/order'>;

interface Act {
  readonly kind: 'close' | 'reverse' | 'flatten' | 'cancel' | 'break-even';
  readonly account: string;
  readonly instrument: string | null;
  readonly quantity?: string;
  readonly percent?: string;
  readonly side?: 'buy' | 'sell';
  readonly plusTicks?: number;
}

/** The position whose stops a phrase moves to break-even; null where it asks for something else. */
export function evenAsked({ ok, act }: PhraseReading): { readonly account: string; readonly instrument: string; readonly plusTicks: number } | null {
  const asked = act as unknown as Act | null;
  if (!ok || asked?.kind !== 'break-even' || asked.instrument === null) return null;
  return { account: asked.account, instrument: asked.instrument, plusTicks: asked.plusTicks ?? 0 };
}

/** What a phrase that was read asks for, as gestures; a stop to break-even is {@link evenAsked}. */
export function intentsOf(reading: PhraseReading): GestureIntent[] {
  if (!reading.ok) return [];
  const orders = reading.requests as unknown as readonly OrderWish[];
  if (orders.length > 0) return orders.map((wish) => ({ kind: 'place', wish }));
  const act = reading.act as unknown as Act | null;
  if (!act) return [];
  const { account, instrument } = act;
  switch (act.kind) {
    case 'flatten':
      return [{ kind: 'flatten', account, instrument }];
    case 'cancel':
      return [{ kind: 'cancel-many', account, instrument, ...(act.side ? { side: act.side } : {}) }];
    case 'close':
      return instrument === null
        ? []
        : [{ kind: 'close', account, instrument, ...(act.percent ? { percent: act.percent } : {}), ...(act.quantity ? { quantity: act.quantity } : {}) }];
    case 'reverse':
      return instrument === null ? [] : [{ kind: 'reverse', account, instrument }];
    case 'break-even':
      return [];
    default:
      return act.kind satisfies never;
  }
}

/** Whether a text begins like an order phrase. */
export const looksLikeOrder = (text: string): boolean => /^\s*(buy|sell|close|reverse|flatten|cancel|stop to)\b/i.test(text);
