import { useEffect, useState } from 'react';
import { useForm, type UseFormRegister } from 'react-hook-form';
import { type OrderWish } from '../../client/gestures/index.ts';
import { sizeKeys } from '../../client/session.ts';
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
import { request, quoteOf, type ApiPreview, type Problem, problemWords } from '../../live/index.ts';

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

/** Asks what an order would do, a moment after it was last changed, and again while it is looked at. */
export function useReview(wish: OrderWish | null): Review {
  const [review, setReview] = useState<Review>({ state: 'waiting' });
  const key = JSON.stringify(wish);
  useEffect(() => {
    if (key === 'null') return undefined;
    let live = true;
    const ask = async (): Promise<void> => {
      const answer = await request('POST /api/orders/preview', { body: JSON.parse(key) as object });
      if (live) setReview(answer.ok ? { state: 'known', preview: answer.value } : { state: 'refused', problem: answer.problem });
    };
    const timer = setTimeout(() => void ask(), PREVIEW_AFTER_MS);
    const again = setInterval(() => void ask(), 1500);
    return () => {
      live = false;
      clearTimeout(timer);
      clearInterval(again);
    };
  }, [key]);
  return review;
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
  const types = venueOrderTypes(instrument.venue, instrument.kind);
  const wrong = (field: string): boolean => problem?.errors?.some((error) => error.path === `/${field}`) ?? false;
  const set = (field: keyof FormValues) => (text: string) => setValue(field, text, { shouldDirty: true });
  return (
    <div className="grid grid-cols-[64px_1fr] items-center gap-x-2 gap-y-1">
      <span className="quiet" id={`${prefix}-side`}>
        side
      </span>
      <div className="flex gap-1" role="radiogroup" aria-labelledby={`${prefix}-side`}>
        {(['buy', 'sell'] as const).map((side) => (
          <button
            key={side}
            type="button"
            role="radio"
            aria-checked={values.side === side}
            className={`control ${side}`}
            onClick={() => setValue('side', side, { shouldDirty: true })}
          >
            {side}
          </button>
        ))}
      </div>
      <Choice label="type" name="type" prefix={prefix} register={register} options={types} />
      <label className="quiet" htmlFor={`${prefix}-quantity`}>
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
          <label className="quiet" htmlFor={`${prefix}-stopPrice`}>
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
          <label className="quiet" htmlFor={`${prefix}-limitPrice`}>
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
      <Choice
        label="until"
        name="timeInForce"
        prefix={prefix}
        register={register}
        options={usesStop(values.type) ? ['day', 'gtc'] : ['day', 'gtc', 'ioc', 'fok']}
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

function Choice({
  label,
  name,
  prefix,
  register,
  options,
}: {
  label: string;
  name: 'type' | 'timeInForce';
  prefix: string;
  register: UseFormRegister<FormValues>;
  options: readonly string[];
}) {
  return (
    <>
      <label className="quiet" htmlFor={`${prefix}-${name}`}>
        {label}
      </label>
      <select id={`${prefix}-${name}`} className="field" {...register(name)}>
        {options.map((option) => (
          <option key={option} value={option}>
            {option}
          </option>
        ))}
      </select>
    </>
  );
}

/** Sentence, cost and checks of the order; what would be accepted instead are buttons that fill the form. */
export function ReviewLines({ review, fill }: { review: Review; fill: (values: Partial<FormValues>) => void }) {
  if (review.state === 'waiting') return <p className="quiet min-h-[54px]">looking …</p>;
  if (review.state === 'refused' && review.problem.status === 0) return <p className="quiet min-h-[54px]">No link: what it would do can’t be told now.</p>;
  if (review.state === 'refused') {
    const { problem } = review;
    const { suggestion } = problem;
    return (
      <div className="min-h-[54px]">
        <p className="plate heather !whitespace-normal">{problemWords(problem)}</p>
        <div className="mt-1 flex flex-wrap gap-1">
          {problem.errors?.flatMap((error) =>
            (error.nearest ?? []).map((value) => (
              <button key={`${error.path} ${value}`} type="button" className="control figure" onClick={() => fill({ [error.path.slice(1)]: value })}>
                {value}
              </button>
            )),
          )}
          {suggestion && 'type' in suggestion && (
            <button type="button" className="control" onClick={() => fill({ type: 'limit', limitPrice: suggestion.limitPrice })}>
              limit {suggestion.limitPrice}
            </button>
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
      <p className="quiet">
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
        <p key={check.rule} className="plate heather !whitespace-normal">
          {check.message}
        </p>
      ))}
    </div>
  );
}
