import { useStore } from '@nanostores/react';
import { useForm } from 'react-hook-form';
import { fitting, type OrderWish } from '../../client/gestures/index.ts';
import { atOnceOnly, isStep, stepped, usesLimit, usesStop, wishOf, type FormValues } from '../../client/order-form.ts';
import { Button } from '../../kit/Button.tsx';
import { Choice } from '../../kit/Choice.tsx';
import { ORDER_TYPES, asPrice, formatPrice, gridFloor, venueOrderTypes, type Instrument } from '../../core/instrument/index.ts';
import { TRAIL_UNITS } from '../../core/market/index.ts';
import { TIMES_IN_FORCE, type TimeInForce } from '../../core/orders/index.ts';
import type { Product } from '../../core/portfolio/index.ts';
import { $accounts, quoteOf, type Problem } from '../../live/index.ts';
import { checkedAs, wrongIn } from './checked.tsx';
import { HeldHere } from './HeldHere.tsx';
import { SetupSpeaks } from './SetupSpeaks.tsx';
import { SizeBy } from './SizeBy.tsx';
import { useSavedPlans } from './queries.tsx';

type Form = ReturnType<typeof useForm<FormValues>>;

/** A form of one order, checked as it is typed. */
export function useOrderForm(base: Pick<OrderWish, 'account' | 'instrument'> & Partial<OrderWish>, first: FormValues): Form {
  const resolver = checkedAs<FormValues>('order', (values) => fitting(wishOf(values, base)), { '/trail/value': 'trailValue' });
  return useForm<FormValues>({ defaultValues: first, mode: 'onChange', resolver });
}

/** How the fields that are typed are labelled. */
const FIELD_WORDS = {
  quantity: 'quantity',
  limitPrice: 'limit',
  stopPrice: 'stop',
  trailValue: 'what it trails by',
  limitOffsetTicks: 'offset',
  setup: 'setup',
};

/** What is wrong in what was typed, in words; null where nothing is. */
export const wrongInOrder = (form: Form): string | null => wrongIn(form.formState.errors, FIELD_WORDS);

/** Steps a field with the arrow keys. */
export function stepper(instrument: Instrument, kind: 'price' | 'quantity', value: string, set: (text: string) => void) {
  return (event: React.KeyboardEvent): void => {
    if (!isStep(event.key)) return;
    event.preventDefault();
    const next = stepped(instrument, kind, value, event.key, event.shiftKey);
    if (next !== null) set(next);
  };
}

interface FieldsProps {
  readonly account: string;
  readonly form: Form;
  readonly instrument: Instrument;
  readonly prefix: string;
  readonly problem: Problem | null;
}

const TYPE_WORDS: Readonly<Record<OrderWish['type'], string>> = {
  market: 'at once, at what is there',
  limit: 'at its price or better',
  stop: 'by market once the price is there',
  'stop-limit': 'by limit once the price is there',
  'trailing-stop': 'by market, on a stop that follows',
};
const PRODUCT_WORDS: Readonly<Record<Product, string>> = {
  overnight: 'kept as long as you like',
  intraday: 'less margin; the broker closes it at 17:20',
};
const WATCHED = [
  { value: 'last', words: 'last trade' },
  { value: 'bid', words: 'bid' },
  { value: 'ask', words: 'ask' },
] as const;

/** The fields of an order, the same in the slip and in a Ticket. */
export function OrderFields({ account, form, instrument, prefix, problem }: FieldsProps) {
  const { register, watch, setValue, formState } = form;
  const values = watch();
  const takes = venueOrderTypes(instrument.venue, instrument.kind);
  const types = ORDER_TYPES.map((type) => ({
    value: type,
    words: type,
    about: takes.includes(type) ? TYPE_WORDS[type] : `${instrument.venue} takes none: held here`,
  }));
  const pick = <F extends keyof FormValues>(field: F, value: FormValues[F]): void =>
    setValue(field, value as never, { shouldDirty: true, shouldValidate: true });
  const pickType = (type: OrderWish['type']): void => {
    pick('type', type);
    // What the venue has no order for can still wait here.
    pick('heldBy', takes.includes(type) ? 'venue' : 'here');
    if (usesStop(type) && atOnceOnly.has(values.timeInForce)) pick('timeInForce', 'day');
  };
  const field = (name: 'quantity' | 'limitPrice' | 'stopPrice', label: string, kind: 'price' | 'quantity') => (
    <>
      <label className="text-quiet" htmlFor={`${prefix}-${name}`}>
        {label}
      </label>
      <span className="flex min-w-0 flex-wrap items-center gap-1">
        <input
          id={`${prefix}-${name}`}
          className="field figure w-0 min-w-[64px] flex-1"
          autoComplete="off"
          aria-invalid={name in formState.errors || (problem?.errors?.some((error) => error.path === `/${name}`) ?? false)}
          {...register(name)}
          onKeyDown={stepper(instrument, kind, values[name], (text) => pick(name, text))}
        />
        {kind === 'price' && <PriceButtons instrument={instrument} onPick={(text) => pick(name, text)} />}
        {kind === 'quantity' && <SizeBy wish={wishOf(values, { account, instrument: instrument.id })} onTake={(text) => pick('quantity', text)} />}
      </span>
    </>
  );
  return (
    <div className="grid grid-cols-[64px_1fr] items-center gap-x-2 gap-y-1">
      <span className="text-quiet" id={`${prefix}-side`}>
        side
      </span>
      <div className="flex gap-1" role="radiogroup" aria-labelledby={`${prefix}-side`}>
        {(['buy', 'sell'] as const).map((side) => (
          <Button key={side} role="radio" aria-checked={values.side === side} tone={side} onClick={() => pick('side', side)}>
            {side}
          </Button>
        ))}
      </div>
      <span className="text-quiet">type</span>
      <span className="flex items-center gap-2">
        <Choice label="type" value={values.type} options={types} onPick={pickType} />
        {values.heldBy === 'here' && values.type !== 'market' && <HeldHere held="here" />}
      </span>
      {field('quantity', 'quantity', 'quantity')}
      {usesStop(values.type) && field('stopPrice', values.type === 'trailing-stop' ? 'first stop' : 'stop', 'price')}
      {values.type === 'trailing-stop' && (
        <>
          <label className="text-quiet" htmlFor={`${prefix}-trail`}>
            trails by
          </label>
          <span className="flex gap-1">
            <input
              id={`${prefix}-trail`}
              className="field figure w-[72px]"
              autoComplete="off"
              aria-invalid={'trailValue' in formState.errors}
              {...register('trailValue')}
            />
            <Choice
              label="measured in"
              value={values.trailUnit}
              options={TRAIL_UNITS.map((unit) => ({ value: unit, words: unit }))}
              onPick={(unit) => pick('trailUnit', unit)}
            />
          </span>
        </>
      )}
      {usesLimit(values.type) && field('limitPrice', 'limit', 'price')}
      {values.type === 'stop-limit' && values.limitPrice.trim() === '' && (
        <>
          <label className="text-quiet" htmlFor={`${prefix}-offset`}>
            or offset
          </label>
          <span className="flex items-center gap-1">
            <input id={`${prefix}-offset`} className="field figure w-[72px]" inputMode="numeric" autoComplete="off" {...register('limitOffsetTicks')} /> ticks,
            sticks to the stop
          </span>
        </>
      )}
      <span className="text-quiet">until</span>
      <span className="flex min-w-0 flex-wrap items-center gap-1">
        <Choice
          label="until"
          value={values.timeInForce}
          options={TIMES_IN_FORCE.filter((one) => !usesStop(values.type) || !atOnceOnly.has(one)).map((one) => ({
            value: one,
            words: one,
            about: UNTIL_WORDS[one],
          }))}
          onPick={(until) => pick('timeInForce', until)}
        />
        {values.timeInForce === 'gtd' && (
          <input type="datetime-local" className="field figure min-w-[176px] flex-1" aria-label="Good until, exchange time" {...register('expiresAt')} />
        )}
      </span>
      <span />
      <MoreFields account={account} form={form} instrument={instrument} prefix={prefix} />
    </div>
  );
}

const UNTIL_WORDS: Readonly<Record<TimeInForce, string>> = {
  day: 'ends with the trading day',
  gtc: 'until cancelled, 90 days at most',
  gtd: 'until a time',
  ioc: 'what fills at once; the rest is cancelled',
  fok: 'all at once or nothing',
};

/** The prices of the market, each a press away. */
function PriceButtons({ instrument, onPick }: { instrument: Instrument; onPick: (text: string) => void }) {
  const seed = (of: 'bid' | 'ask' | 'last' | 'mid'): void => {
    const quote = quoteOf(instrument.id);
    const { bid = null, ask = null, last = null } = quote ?? {};
    const mid = bid !== null && ask !== null ? gridFloor(instrument, asPrice(Math.floor((bid + ask) / 2))) : null;
    const price = { bid, ask, last, mid }[of];
    if (price !== null) onPick(formatPrice(instrument, price));
  };
  return (
    <>
      {(['bid', 'ask', 'mid', 'last'] as const).map((of) => (
        <Button key={of} size="key" className="text-[12px]" onClick={() => seed(of)} aria-label={`price at the ${of}`}>
          {of}
        </Button>
      ))}
    </>
  );
}

/** What most orders are left as they come: where it waits, what it watches, how its fills are left, its setup. */
function MoreFields({ account, form, instrument, prefix }: Omit<FieldsProps, 'problem'>) {
  const { register, watch, setValue } = form;
  const values = watch();
  const { data } = useSavedPlans();
  const products = useStore($accounts)[account]?.products ?? [];
  const takes = venueOrderTypes(instrument.venue, instrument.kind).includes(values.type);
  const pick = <F extends keyof FormValues>(field: F, value: FormValues[F]): void =>
    setValue(field, value as never, { shouldDirty: true, shouldValidate: true });
  const plans = [
    { value: '', words: 'no exit plan' },
    ...(data?.items ?? []).map((plan) => ({ value: plan.name, words: plan.name, about: plan.heldBy === 'here' ? 'held here' : 'at the venue' })),
  ];
  return (
    <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
      {values.type === 'limit' && (
        <label className="flex items-center gap-1">
          <input type="checkbox" className="accent-lamp" {...register('restOnly')} /> only if it rests
        </label>
      )}
      {usesStop(values.type) && <Choice label="triggers on" value={values.triggerOn} options={WATCHED} onPick={(source) => pick('triggerOn', source)} />}
      {values.type !== 'market' && (
        <Choice
          label="held"
          value={values.heldBy}
          options={[
            ...(takes ? [{ value: 'venue' as const, words: 'at the venue' }] : []),
            { value: 'here' as const, words: 'held here', about: 'Kavix fires it' },
          ]}
          onPick={(held) => pick('heldBy', held)}
        />
      )}
      {products.length > 1 && (
        <Choice
          label="product"
          value={values.product}
          options={products.map((product) => ({ value: product as Product, words: product, about: PRODUCT_WORDS[product as Product] }))}
          onPick={(product) => pick('product', product)}
        />
      )}
      <Choice label="exit plan" value={values.exitPlan} options={plans} onPick={(plan) => pick('exitPlan', plan)} />
      <input
        className="field w-[96px]"
        placeholder="setup"
        aria-label="Setup"
        id={`${prefix}-setup`}
        autoComplete="off"
        maxLength={64}
        {...register('setup')}
      />
      {values.setup.trim() !== '' && (
        <SetupSpeaks setup={values.setup.trim()} quantity={values.quantity} decimals={instrument.quantityDecimals} onHalf={(half) => pick('quantity', half)} />
      )}
    </div>
  );
}
