import { useForm, type Resolver } from 'react-hook-form';
import { answer } from '../../client/answers.ts';
import { closeSlip, fitting, type OrderWish, type PairSlip } from '../../client/gestures/index.ts';
import { Button } from '../../kit/Button.tsx';
import { InstrumentName, Pennant } from '../../kit/Instrument.tsx';
import { instrumentOf } from '../../live/index.ts';
import { Wrong, checkedAs, wrongIn } from './checked.tsx';
import { stepper } from './OrderForm.tsx';
import { ReviewLines, useReview } from './OrderReview.tsx';
import { HeldHere } from './HeldHere.tsx';
import { SlipFrame, useSending } from './SlipFrame.tsx';

interface Values {
  buy: string;
  sell: string;
  quantity: string;
}

const PREFIX = 'pair';
const FIELD_WORDS = { buy: 'what it buys from', sell: 'what it sells from' };

/** The review of a breakout pair: both stops, what each would do, and one way to send them. */
export function OpenPairSlip({ slip }: { slip: PairSlip }) {
  const [buy, sell] = slip.pair;
  const instrument = instrumentOf(buy.instrument);
  const { sending, send: sendIntent } = useSending(slip.pane);
  const legOf = (values: Values, wish: OrderWish): OrderWish => fitting({ ...wish, stopPrice: values[wish.side].trim(), quantity: values.quantity.trim() });
  const both = (way: 'buy' | 'sell'): Resolver<Values> =>
    checkedAs<Values>('order', (values) => legOf(values, way === 'buy' ? buy : sell), { '/stopPrice': way });
  const form = useForm<Values>({
    defaultValues: { buy: buy.stopPrice ?? '', sell: sell.stopPrice ?? '', quantity: buy.quantity },
    mode: 'onChange',
    resolver: async (...asked) => {
      const found = [await both('buy')(...asked), await both('sell')(...asked)] as const;
      return found.find(({ errors }) => Object.keys(errors).length > 0) ?? found[0];
    },
  });
  const values = form.watch();
  const wrong = wrongIn(form.formState.errors, FIELD_WORDS);
  const pair = [legOf(values, buy), legOf(values, sell)] as const;
  const reviews = [useReview(wrong === null ? pair[0] : null), useReview(wrong === null ? pair[1] : null)] as const;
  if (!instrument) return null;
  const plan = typeof buy.exitPlan === 'string' ? buy.exitPlan : null;
  const send = (): void => (wrong === null ? sendIntent({ kind: 'place-pair', pair }) : answer(slip.pane, 'refused', wrong));
  const field = (name: keyof Values, label: string) => (
    <>
      <label className="text-quiet" htmlFor={`${PREFIX}-${name}`}>
        {label}
      </label>
      <input
        id={`${PREFIX}-${name}`}
        className="field figure w-full"
        autoComplete="off"
        aria-invalid={name in form.formState.errors}
        {...form.register(name)}
        onKeyDown={stepper(instrument, name === 'quantity' ? 'quantity' : 'price', values[name], (text) =>
          form.setValue(name, text, { shouldDirty: true, shouldValidate: true }),
        )}
      />
    </>
  );
  return (
    <SlipFrame slip={slip} label={`Breakout pair ${instrument.id}`} onSend={send} onKey={() => undefined}>
      <div className="mb-2 flex items-center gap-2">
        <b>Breakout pair</b>
        <InstrumentName id={instrument.id} />
        {buy.heldBy === 'here' && <HeldHere held="here" />}
        <span className="ml-auto">{buy.account}</span>
      </div>
      <div className="grid grid-cols-[64px_1fr] items-center gap-x-2 gap-y-1">
        {field('buy', 'buys from')}
        {field('sell', 'sells from')}
        {field('quantity', 'quantity')}
      </div>
      <p className="mt-1 text-quiet">
        One group: the one that fills cancels the other{plan === null ? ', and no exit plan goes with it' : `; exit plan ${plan} goes on it`}.
      </p>
      <Wrong>{wrong}</Wrong>
      {pair.map((wish, i) => (
        <div key={wish.side} className="mt-2 border-t border-hair pt-2">
          <Pennant side={wish.side} />
          <ReviewLines
            review={reviews[i] ?? { state: 'waiting' }}
            fill={({ stopPrice }) => stopPrice !== undefined && form.setValue(wish.side, stopPrice, { shouldDirty: true, shouldValidate: true })}
          />
        </div>
      ))}
      <div className="mt-2 flex items-center gap-2">
        <Button disabled={sending} onClick={send}>
          {sending ? 'sending' : 'Send both'}
        </Button>
        <Button onClick={closeSlip}>Leave it</Button>
      </div>
      <p className="mt-2 text-[12px] text-quiet">
        {wrong === null
          ? `Enter sends: buy ${values.quantity} at stop ${values.buy} and sell ${values.quantity} at stop ${values.sell}, ${buy.account}`
          : 'Enter sends nothing until that is right.'}
      </p>
    </SlipFrame>
  );
}
