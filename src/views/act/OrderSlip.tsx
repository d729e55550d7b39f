import { useStore } from '@nanostores/react';
import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import { useForm } from 'react-hook-form';
import { FLOAT } from '../../kit/floats.ts';
import { answer } from '../../client/answers.ts';
import { $slip, closeSlip, type Slip, act, fitting } from '../../client/gestures/index.ts';
import { type Price, addTicks, asPrice, formatPrice } from '../../core/instrument/index.ts';
import { wouldTrade } from '../../core/orders/index.ts';
import { Button } from '../../kit/Button.tsx';
import { Pennant, InstrumentName } from '../../kit/Instrument.tsx';
import { followDepth, followQuote, instrumentOf, priceOf, quoteOf, type LiveDepth } from '../../live/index.ts';
import { laidOut } from '../../kit/scale.ts';
import { clearPlace, type Box } from './slip-place.ts';
import { OrderFields, ReviewLines, formOf, useReview, wishOf, type FormValues } from './OrderForm.tsx';

/** Keys count only after the slip has been seen. */
const DEAF_MS = 250;
const WIDTH = 320;
/** Top line and rail stay in view. */
const HEAD_PX = 68;
/** So high it grows when all it says has come. */
const MOST_HEIGHT = 390;

export function OrderSlip() {
  const slip = useStore($slip);
  return slip ? <OpenSlip key={slip.openedAt} slip={slip} /> : null;
}

/** The small review of one order, beside the pane that asked. */
function OpenSlip({ slip }: { slip: Slip }) {
  const instrument = instrumentOf(slip.wish.instrument);
  const form = useForm<FormValues>({ defaultValues: formOf(slip.wish) });
  const values = form.watch();
  const wish = fitting(wishOf(values, slip.wish));
  const review = useReview(wish);
  const box = useRef<HTMLDivElement>(null);
  const [place, setPlace] = useState({ left: 0, top: 80 });
  const [sending, setSending] = useState(false);
  useLayoutEffect(() => {
    const asked = document.querySelector(`[data-pane="${slip.pane}"]`)?.getBoundingClientRect();
    const [width, height] = [WIDTH, box.current?.offsetHeight ?? 320];
    if (asked) {
      const inPx = ({ left, top, right, bottom }: DOMRect): Box => ({ left: laidOut(left), top: laidOut(top), right: laidOut(right), bottom: laidOut(bottom) });
      const areas = [...document.querySelectorAll('[data-order-area]')].map((one) => inPx(one.getBoundingClientRect()));
      const room = { left: 0, top: HEAD_PX, right: laidOut(window.innerWidth), bottom: laidOut(window.innerHeight) };
      setPlace(clearPlace({ width, height: Math.max(height, MOST_HEIGHT) }, room, areas, inPx(asked)));
    }
    box.current?.focus();
  }, [slip.pane]);
  // The book that `[` and `]` walk through.
  const depth = useRef<LiveDepth | null>(null);
  useEffect(() => followDepth(slip.wish.instrument, (now) => (depth.current = now)), [slip.wish.instrument]);

  const [effect, changedEffect, seenEffect] = useEffectWatch(wish);
  if (!instrument) return null;
  const verb = values.side;
  const price = wish.limitPrice ?? wish.stopPrice;
  const line = `Enter sends: ${verb} ${wish.quantity} ${wish.instrument} ${price === undefined ? 'at market' : `at ${price}`}, ${wish.account}`;

  const send = (): void => {
    if (sending) return;
    if (changedEffect) {
      seenEffect();
      answer(slip.pane, 'refused', `its effect changed: it now ${effect}. Enter again to send`);
      return;
    }
    const submitted = act(slip.pane, 'review', { kind: 'place', wish });
    if (submitted.kind !== 'sent') return;
    setSending(true);
    void submitted.done.then((went) => {
      setSending(false);
      if (went) closeSlip();
    });
  };
  const field = wish.stopPrice === undefined ? 'limitPrice' : 'stopPrice';
  const setPrice = (next: Price): void => form.setValue(field, formatPrice(instrument, next), { shouldDirty: true });
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
  return (
    <div
      ref={box}
      role="dialog"
      aria-label={`Order slip ${instrument.id}`}
      tabIndex={-1}
      className={`${FLOAT} fixed p-3 outline-none`}
      style={{ ...place, width: WIDTH }}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') {
          closeSlip();
          return;
        }
        if (performance.now() - slip.openedAt < DEAF_MS || event.repeat) {
          if (event.key !== 'Tab') event.preventDefault();
          return;
        }
        if (event.key === '[' || event.key === ']') {
          event.preventDefault();
          walk(event.key === ']' ? 1 : -1);
        } else if ((event.key === 'ArrowUp' || event.key === 'ArrowDown') && event.target === box.current && price !== undefined) {
          event.preventDefault();
          tick((event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 10 : 1));
        } else if (event.key === 'Enter' && !(event.target as HTMLElement).closest('button')) {
          event.preventDefault();
          send();
        }
      }}
    >
      <div className="mb-2 flex items-center gap-2">
        <Pennant side={values.side} />
        <InstrumentName id={instrument.id} />
        <span className="text-quiet truncate">{instrument.name}</span>
        <span className="ml-auto">{slip.wish.account}</span>
      </div>
      <OrderFields account={slip.wish.account} form={form} instrument={instrument} prefix="slip" problem={review.state === 'refused' ? review.problem : null} />
      <div className="my-2 border-t border-hair pt-2">
        <ReviewLines review={review} fill={(next) => Object.entries(next).forEach(([field, value]) => form.setValue(field as keyof FormValues, value))} />
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
    </div>
  );
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
