import { useEffect, useState } from 'react';
import { useForm } from 'react-hook-form';
import { type OrderWish } from '../../client/gestures/index.ts';
import { sizeKeys } from '../../client/session.ts';
import { Button } from '../../kit/Button.tsx';
import { Choice } from '../../kit/Choice.tsx';
import {
  asPrice,
  asQuantity,
  addTicks,
  formatPrice,
  formatQuantity,
  parsePrice,
  parseQuantity,
  venueOrderTypes,
  type Instrument,
} from '../../core/instrument/index.ts';
import { quoteOf, type ApiPreview, type Problem, problemWords } from '../../live/index.ts';
import { useAsked } from './queries.tsx';

export interface FormValues {
  side: 'buy' | 'sell';
  type: OrderWish['type'];
  quantity: string;
  limitPrice: string;
  stopPrice: string;
  timeInForce: string;
  restOnly: boolean;
}

export const formOf = (wish: OrderWish): FormValues => ({
  side: wish.side,
  type: wish.type,
  quantity: wish.quantity,
  limitPrice: wish.limitPrice ?? '',
  stopPrice: wish.stopPrice ?? '',
  timeInForce: wish.timeInForce ?? 'day',
  restOnly: wish.restOnly ?? false,
});

const usesLimit = (type: OrderWish['type']): boolean => type === 'limit' || type === 'stop-limit';
const usesStop = (type: OrderWish['type']): boolean => type === 'stop' || type === 'stop-limit';
const atOnceOnly = new Set(['ioc', 'fok']);

/** The request that a form stands for; what its type has no use for is left out. */
export function wishOf(values: FormValues, base: Pick<OrderWish, 'account' | 'instrument'> & Partial<OrderWish>): OrderWish {
  const { side, type, quantity, limitPrice, stopPrice, timeInForce, restOnly } = values;
  const offset = type === 'stop-limit' && limitPrice.trim() === '' ? { limitOffsetTicks: base.limitOffsetTicks ?? 0 } : {};
  return {
    account: base.account,
    instrument: base.instrument,
    side,
    type,
    quantity: quantity.trim(),
    ...(usesLimit(type) && limitPrice.trim() !== '' ? { limitPrice: limitPrice.trim() } : {}),
    ...(usesStop(type) ? { stopPrice: stopPrice.trim() } : {}),
    ...offset,
    ...(timeInForce === 'day' ? {} : { timeInForce }),
    ...(type === 'limit' && restOnly && !atOnceOnly.has(timeInForce) ? { restOnly: true } : {}),
    ...(base.reduceOnly ? { reduceOnly: true } : {}),
  };
}

export type Review =
  { readonly state: 'waiting' } | { readonly state: 'known'; readonly preview: ApiPreview } | { readonly state: 'refused'; readonly problem: Problem };

const PREVIEW_AFTER_MS = 180;
const PREVIEW_AGAIN_MS = 1500;

/** Asks what an order would do, a moment after it was last changed, and again while it is looked at. */
export function useReview(wish: OrderWish | null): Review {
  const text = JSON.stringify(wish);
  const [still, setStill] = useState('null');
  useEffect(() => {
    const timer = setTimeout(() => setStill(text), PREVIEW_AFTER_MS);
    return () => clearTimeout(timer);
  }, [text]);
  const body = JSON.parse(still) as object | null;
  const { data, error } = useAsked('POST /api/orders/preview', { body: body ?? {} }, { everyMs: PREVIEW_AGAIN_MS, when: body !== null });
  if (error) return { state: 'refused', problem: error.problem };
  return data ? { state: 'known', preview: data } : { state: 'waiting' };
}

/** Steps a field by ticks or quantity steps with the arrow keys. */
function stepper(instrument: Instrument, kind: 'price' | 'quantity', value: string, set: (text: string) => void) {
  return (event: React.KeyboardEvent): void => {
    const up = event.key === 'ArrowUp' || event.key === 'PageUp';
    if (!up && event.key !== 'ArrowDown' && event.key !== 'PageDown') return;
    event.preventDefault();
    const way = (up ? 1 : -1) * (event.shiftKey ? 10 : 1);
    if (kind === 'price') {
      const price = parsePrice(instrument, value) ?? quoteOf(instrument.id)?.last ?? null;
      if (price !== null) set(formatPrice(instrument, asPrice(Math.max(1, addTicks(instrument, price, way)))));
      return;
    }
    if (event.key.startsWith('Page')) {
      const keys = sizeKeys(instrument);
      const at = keys.findIndex((key) => Number(key) >= Number(value));
      set(keys[Math.max(0, Math.min(keys.length - 1, (at < 0 ? keys.length - 1 : at) + (up ? 1 : -1)))] ?? value);
      return;
    }
    const quantity = parseQuantity(instrument, value) ?? 0;
    set(formatQuantity(instrument, asQuantity(Math.max(instrument.minimumQuantity, quantity + way))));
  };
}

/** The fields of an order, the same in the slip and in a Ticket. */
export function OrderFields({
  form,
  instrument,
  prefix,
  problem,
}: {
  form: ReturnType<typeof useForm<FormValues>>;
  instrument: Instrument;
  prefix: string;
  problem: Problem | null;
}) {
  const { register, watch, setValue } = form;
  const values = watch();
  const types = venueOrderTypes(instrument.venue, instrument.kind).filter((type) => type !== 'trailing-stop');
  const wrong = (field: string): boolean => problem?.errors?.some((error) => error.path === `/${field}`) ?? false;
  const set = (field: keyof FormValues) => (text: string) => setValue(field, text, { shouldDirty: true });
  return (
    <div className="grid grid-cols-[64px_1fr] items-center gap-x-2 gap-y-1">
      <span className="text-quiet" id={`${prefix}-side`}>
        side
      </span>
      <div className="flex gap-1" role="radiogroup" aria-labelledby={`${prefix}-side`}>
        {(['buy', 'sell'] as const).map((side) => (
          <Button
            key={side}

            role="radio"
            aria-checked={values.side === side}
            tone={side}
            onClick={() => setValue('side', side, { shouldDirty: true })}
          >
            {side}
          </Button>
        ))}
      </div>
      <Picked label="type" value={values.type} options={types} onPick={(type) => setValue('type', type, { shouldDirty: true })} />
      <label className="text-quiet" htmlFor={`${prefix}-quantity`}>
        quantity
      </label>
      <input
        id={`${prefix}-quantity`}
        className="field figure"
        autoComplete="off"
        aria-invalid={wrong('quantity')}
        {...register('quantity')}
        onKeyDown={stepper(instrument, 'quantity', values.quantity, set('quantity'))}
      />
      {usesStop(values.type) && (
        <>
          <label className="text-quiet" htmlFor={`${prefix}-stopPrice`}>
            stop
          </label>
          <input
            id={`${prefix}-stopPrice`}
            className="field figure"
            autoComplete="off"
            aria-invalid={wrong('stopPrice')}
            {...register('stopPrice')}
            onKeyDown={stepper(instrument, 'price', values.stopPrice, set('stopPrice'))}
          />
        </>
      )}
      {usesLimit(values.type) && (
        <>
          <label className="text-quiet" htmlFor={`${prefix}-limitPrice`}>
            limit
          </label>
          <input
            id={`${prefix}-limitPrice`}
            className="field figure"
            autoComplete="off"
            aria-invalid={wrong('limitPrice')}
            {...register('limitPrice')}
            onKeyDown={stepper(instrument, 'price', values.limitPrice, set('limitPrice'))}
          />
        </>
      )}
      <Picked
        label="until"
        value={values.timeInForce}
        options={usesStop(values.type) ? ['day', 'gtc'] : ['day', 'gtc', 'ioc', 'fok']}
        onPick={(timeInForce) => setValue('timeInForce', timeInForce, { shouldDirty: true })}
      />
      {values.type === 'limit' && (
        <>
          <span />
          <label className="flex items-center gap-2">
            <input type="checkbox" {...register('restOnly')} /> only if it rests
          </label>
        </>
      )}
    </div>
  );
}

function Picked<V extends string>({ label, value, options, onPick }: { label: string; value: V; options: readonly V[]; onPick: (value: V) => void }) {
  return (
    <>
      <span className="text-quiet">{label}</span>
      <Choice label={label} value={value} options={options.map((one) => ({ value: one, words: one }))} onPick={onPick} />
    </>
  );
}

/** Sentence, cost and checks of the order; what would be accepted instead are buttons that fill the form. */
export function ReviewLines({ review, fill }: { review: Review; fill: (values: Partial<FormValues>) => void }) {
  if (review.state === 'waiting') return <p className="text-quiet min-h-[54px]">looking …</p>;
  if (review.state === 'refused' && review.problem.status === 0) return <p className="text-quiet min-h-[54px]">No link: what it would do can’t be told now.</p>;
  if (review.state === 'refused') {
    const { problem } = review;
    const { suggestion } = problem;
    return (
      <div className="min-h-[54px]">
        <p className="plate heather whitespace-normal">{problemWords(problem)}</p>
        <div className="mt-1 flex flex-wrap gap-1">
          {problem.errors?.flatMap((error) =>
            (error.nearest ?? []).map((value) => (
              <Button key={`${error.path} ${value}`} className="figure" onClick={() => fill({ [error.path.slice(1)]: value })}>
                {value}
              </Button>
            )),
          )}
          {suggestion && 'type' in suggestion && (
            <Button onClick={() => fill({ type: 'limit', limitPrice: suggestion.limitPrice })}>limit {suggestion.limitPrice}</Button>
          )}
        </div>
      </div>
    );
  }
  const { sentence, estimate, checks } = review.preview;
  const refused = checks.filter((check) => check.result === 'refuse');
  return (
    <div className="min-h-[54px]">
      <p>{sentence}</p>
      <p className="text-quiet">
        value <span className="figure text-ink">{estimate.value}</span> · fees <span className="figure text-ink">{estimate.fees}</span> · margin{' '}
        <span className="figure text-ink">{estimate.margin}</span>
        {estimate.averagePrice !== null && (
          <>
            {' '}
            · fills at about <span className="figure text-ink">{estimate.averagePrice}</span>
          </>
        )}
      </p>
      {refused.map((check) => (
        <p key={check.rule} className="plate heather whitespace-normal">
          {check.message}
        </p>
      ))}
    </div>
  );
}
