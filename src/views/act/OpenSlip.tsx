import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import { answer } from '../../client/answers.ts';
import { keys } from '../../client/keys.ts';
import { closeSlip, type OrderSlip as Slip, fitting } from '../../client/gestures/index.ts';
import { formOf, wishOf, type FormValues } from '../../client/order-form.ts';
import { type Price, addTicks, asPrice, formatPrice } from '../../core/instrument/index.ts';
import { wouldTrade } from '../../core/orders/index.ts';
import { Button } from '../../kit/Button.tsx';
import { Pennant, InstrumentName } from '../../kit/Instrument.tsx';
import { followDepth, followQuote, instrumentOf, priceOf, quoteOf, type LiveDepth } from '../../live/index.ts';
import { chordsOf } from './keys.ts';
import { SlipFrame, useSending } from './SlipFrame.tsx';
import { OrderFields, useOrderForm, wrongInOrder } from './OrderForm.tsx';
import { ReviewLines, useReview } from './OrderReview.tsx';

/** Within so long the same key is meant for the order that it opened. */
const AGAIN_MS = 1000;

/** The small review of one order, beside the pane that asked. */
export function OpenSlip({ slip }: { slip: Slip }) {
  const instrument = instrumentOf(slip.wish.instrument);
  const form = useOrderForm(slip.wish, formOf(slip.wish));
  const values = form.watch();
  const wish = fitting(wishOf(values, slip.wish));
  const wrong = wrongInOrder(form);
  const review = useReview(wrong === null ? wish : null);
  const { sending, send: sendIntent } = useSending(slip.pane);
  // The book that `[` and `]` walk through.
  const depth = useRef<LiveDepth | null>(null);
  useEffect(() => followDepth(slip.wish.instrument, (now) => (depth.current = now)), [slip.wish.instrument]);

  const [effect, changedEffect, seenEffect] = useEffectWatch(wish);
  const isAgain = useAgain(slip.openedAt);
  if (!instrument) return null;
  const verb = values.side;
  const price = wish.limitPrice ?? wish.stopPrice;
  const line =
    wrong !== null
      ? 'Enter sends nothing until that is right.'
      : `Enter sends: ${verb} ${wish.quantity} ${wish.instrument} ${price === undefined ? 'at market' : `at ${price}`}, ${wish.account}`;

  const send = (): void => {
    if (wrong !== null) answer(slip.pane, 'refused', wrong);
    else if (changedEffect) {
      seenEffect();
      answer(slip.pane, 'refused', `its effect changed: it now ${effect}. Enter again to send`);
    } else sendIntent({ kind: 'place', wish });
  };
  const field = wish.stopPrice === undefined ? 'limitPrice' : 'stopPrice';
  const setPrice = (next: Price): void => form.setValue(field, formatPrice(instrument, next), { shouldDirty: true, shouldValidate: true });
  /** To the next price at which somebody rests, or somebody traded last. */
  const walk = (way: 1 | -1): void => {
    const quote = quoteOf(instrument.id);
    const book = [...(depth.current?.bids.keys() ?? []), ...(depth.current?.asks.keys() ?? []), quote?.bid, quote?.last, quote?.ask];
    const at = priceOf(instrument, values[field] || null);
    const beyond = book.filter((one): one is Price => typeof one === 'number' && (at === null || (way > 0 ? one > at : one < at)));
    if (beyond.length > 0) setPrice((way > 0 ? Math.min(...beyond) : Math.max(...beyond)) as Price);
  };
  const tick = (way: number): void => {
    const at = priceOf(instrument, values[field] || null) ?? quoteOf(instrument.id)?.last;
    if (at !== undefined && at !== null) setPrice(asPrice(Math.max(1, addTicks(instrument, at, way))));
  };
  const onKey = (event: KeyboardEvent, bare: boolean): void => {
    const arrow = event.key === 'ArrowUp' || event.key === 'ArrowDown';
    if (event.key === '[' || event.key === ']') walk(event.key === ']' ? 1 : -1);
    else if (arrow && bare && price !== undefined) tick((event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 10 : 1));
    else if (bare && price !== undefined && isAgain(event)) walk(values.side === 'buy' ? 1 : -1);
    else return;
    event.preventDefault();
  };
  return (
    <SlipFrame slip={slip} label={`Order slip ${instrument.id}`} onSend={send} onKey={onKey}>
      <div className="mb-2 flex items-center gap-2">
        <Pennant side={values.side} />
        <InstrumentName id={instrument.id} />
        <span className="text-quiet truncate">{instrument.name}</span>
        <span className="ml-auto">{slip.wish.account}</span>
      </div>
      <OrderFields account={slip.wish.account} form={form} instrument={instrument} prefix="slip" problem={review.state === 'refused' ? review.problem : null} />
      <div className="my-2 border-t border-hair pt-2">
        <ReviewLines
          review={review}
          wrong={wrong}
          fill={(next) => Object.entries(next).forEach(([field, value]) => form.setValue(field as keyof FormValues, value, { shouldValidate: true }))}
        />
        {effect !== null && (
          <p>
            It <span className={changedEffect ? 'underline decoration-2 underline-offset-4' : ''}>{effect}</span>.
          </p>
        )}
      </div>
      <div className="flex items-center gap-2">
        <Button tone={values.side} disabled={sending} onClick={send} aria-label={`Send: ${verb} ${wish.quantity} ${wish.instrument}`}>
          {sending ? 'sending' : 'Send'}
        </Button>
        <Button onClick={closeSlip}>Leave it</Button>
      </div>
      <p className="mt-2 text-[12px] text-quiet">{line}</p>
    </SlipFrame>
  );
}

/** Whether a press is of the key that opened the slip, again while its order is still being thought of: it walks on through the book. */
function useAgain(openedAt: number): (event: KeyboardEvent) => boolean {
  const opener = useRef(keys.ranWithin(AGAIN_MS));
  const pressedAt = useRef(openedAt);
  return (event) => {
    const now = performance.now();
    if (opener.current === null || now - pressedAt.current > AGAIN_MS || !chordsOf(event.nativeEvent).includes(opener.current)) return false;
    pressedAt.current = now;
    return true;
  };
}

/** Whether a limit order rests or fills at once, and whether that changed since the slip opened. */
function useEffectWatch(wish: ReturnType<typeof wishOf>): [string | null, boolean, () => void] {
  const instrument = instrumentOf(wish.instrument);
  const key = `${wish.type} ${wish.side} ${wish.limitPrice ?? ''}`;
  const seen = useRef<{ key: string; effect: string | null }>({ key, effect: null });
  const [effect, setEffect] = useState<string | null>(null);
  useEffect(() => {
    const look = (): void => {
      const quote = quoteOf(wish.instrument);
      if (wish.type !== 'limit' || !quote || !instrument) {
        setEffect(null);
        return;
      }
      const limit = priceOf(instrument, wish.limitPrice ?? null);
      const now = limit !== null && wouldTrade(limit, wish.side, quote) ? 'fills now' : 'rests';
      if (seen.current.key !== key || seen.current.effect === null) seen.current = { key, effect: now };
      setEffect(now);
    };
    look();
    // The slip keeps its own eye on the price, wherever the panes go.
    return followQuote(wish.instrument, look);
  }, [instrument, key, wish.instrument, wish.limitPrice, wish.side, wish.type]);
  const changed = effect !== null && seen.current.effect !== null && seen.current.effect !== effect;
  return [effect, changed, () => (seen.current = { key, effect })];
}
