import { useStore } from '@nanostores/react';
import { useCallback, useEffect, useRef, useState } from 'react';
import { $platePlans, planFor } from '../../../client/exit-plans.ts';
import { act, fitting } from '../../../client/gestures/index.ts';
import { formOf, wishOf, type FormValues } from '../../../client/order-form.ts';
import { canTrade, sizeOf } from '../../../client/session.ts';
import { formatPrice, type Instrument } from '../../../core/instrument/index.ts';
import { followQuote, instrumentOf, quoteOf } from '../../../live/index.ts';
import { $letters, $panes, targetOf, type Target } from '../../workspace/panes.ts';
import { Button } from '../../../kit/Button.tsx';
import { later, usePart } from '../../../kit/later.ts';
import { OrderFields, useOrderForm, wrongInOrder } from '../../act/OrderForm.tsx';
import { ReviewLines, useReview } from '../../act/OrderReview.tsx';

const CONDITIONS = later(async () => ({ ...(await import('../../act/PhraseField.tsx')), ...(await import('../../act/phrase.ts')) }));
/** What is written before it can be read. */
const UNREAD = { ok: false };

/** A standing form for one order. With an edited field it holds its instrument until sent or cleared. */
export default function TicketPane({ id }: { id: string }) {
  useStore($panes);
  useStore($letters);
  const target = targetOf(id);
  const [held, setHeld] = useState<Target | null>(null);
  const shown = held ?? target;
  const { instrument: ofId, account: ofAccount } = shown ?? { instrument: '', account: '' };
  const hold = useCallback((on: boolean) => setHeld(on ? { pane: id, instrument: ofId, account: ofAccount } : null), [id, ofId, ofAccount]);
  const instrument = shown ? instrumentOf(shown.instrument) : undefined;
  if (!shown || !instrument) return <p className="p-2 text-quiet">No instrument. Type its letters, or pick one in the command bar.</p>;
  if (!canTrade(shown.account, instrument.id))
    return <p className="p-2">{`${shown.account} can’t trade ${instrument.id}. Choose another account on the plate.`}</p>;
  return (
    <TicketForm
      key={`${shown.instrument} ${shown.account}`}
      id={id}
      target={shown}
      instrument={instrument}
      holds={held !== null && target?.instrument !== held.instrument}
      onHold={hold}
    />
  );
}

const firstValues = (target: Target, instrument: Instrument): FormValues => {
  const { account } = target;
  const last = quoteOf(instrument.id)?.bid ?? quoteOf(instrument.id)?.last;
  const plan = planFor(account, instrument.id);
  return formOf({
    account,
    instrument: instrument.id,
    side: 'buy',
    type: 'limit',
    quantity: sizeOf(account, instrument.id),
    ...(last ? { limitPrice: formatPrice(instrument, last) } : {}),
    ...(plan === null ? {} : { exitPlan: plan }),
  });
};

function TicketForm(props: { id: string; target: Target; instrument: Instrument; holds: boolean; onHold: (on: boolean) => void }) {
  const { id, target, instrument, holds, onHold } = props;
  const form = useOrderForm(target, firstValues(target, instrument));
  const { isDirty } = form.formState;
  useEffect(() => onHold(isDirty), [isDirty, onHold]);
  // The plan on the plate goes on it as on every entry, as long as nothing was typed here.
  useStore($platePlans);
  const plan = planFor(target.account, instrument.id);
  useEffect(() => {
    const exitPlan = plan ?? '';
    if (!form.formState.isDirty && form.getValues('exitPlan') !== exitPlan) form.reset({ ...form.getValues(), exitPlan });
  }, [form, plan]);
  // The price begins at the bid as soon as one is known; what was typed stays. After an order it begins empty: nothing
  // that could be sent stands there by itself.
  const begun = useRef(false);
  const busy = useRef(false);
  const [sending, setSending] = useState(false);
  useEffect(
    () =>
      followQuote(instrument.id, ({ bid, last }) => {
        const price = bid ?? last;
        if (price !== null && !begun.current && form.getValues('limitPrice') === '' && !form.formState.isDirty)
          form.reset({ ...form.getValues(), limitPrice: formatPrice(instrument, price) });
      }),
    [form, instrument],
  );
  const [when, setWhen] = useState<string | null>(null);
  const conditions = usePart(CONDITIONS, when !== null);
  const condition = when === null || when.trim() === '' ? null : (conditions?.readCondition(when) ?? UNREAD);
  const values = form.watch();
  const wish = fitting(wishOf(values, target));
  const ready =
    wish.quantity !== '' && (wish.type === 'market' || wish.type === 'trailing-stop' || wish.limitPrice !== undefined || wish.stopPrice !== undefined);
  const wrong = wrongInOrder(form);
  const review = useReview(ready && wrong === null ? wish : null);
  const clear = (): void => {
    form.reset(firstValues(target, instrument));
    setWhen(null);
  };
  const send = form.handleSubmit(async () => {
    if (busy.current || !ready || condition?.ok === false) return;
    const submitted = act(id, 'review', condition === null || when === null ? { kind: 'place', wish } : { kind: 'wait', when, orders: [wish] });
    if (submitted.kind !== 'sent') return;
    busy.current = true;
    setSending(true);
    const went = await submitted.done;
    busy.current = false;
    setSending(false);
    if (went) {
      begun.current = true;
      setWhen(null);
      form.reset({ ...firstValues(target, instrument), limitPrice: '' });
    }
  });
  return (
    <form
      className="scroll flex h-full flex-col gap-2 p-2 [&>*]:shrink-0"
      onSubmit={(event) => void send(event)}
      aria-label={`Ticket ${instrument.id} ${target.account}`}
    >
      {holds && <p className="plate brass">holds {instrument.id}</p>}
      <OrderFields
        account={target.account}
        form={form}
        instrument={instrument}
        prefix={`ticket-${id}`}
        problem={review.state === 'refused' ? review.problem : null}
      />
      {ready ? (
        <ReviewLines
          review={review}
          wrong={wrong}
          fill={(next) =>
            Object.entries(next).forEach(([field, value]) => form.setValue(field as keyof FormValues, value, { shouldDirty: true, shouldValidate: true }))
          }
        />
      ) : (
        <p className="text-quiet">Give a price to see what it would do.</p>
      )}
      {when === null ? (
        <button type="button" className="self-start text-quiet underline underline-offset-4" onClick={() => setWhen('')}>
          when …
        </button>
      ) : (
        <div className="flex items-start gap-2">
          <span className="text-quiet leading-[24px]">when</span>
          {conditions && <conditions.PhraseField label="When" value={when} onChange={setWhen} placeholder="last > vwap" />}
        </div>
      )}
      <div className="mt-auto flex gap-2">
        <Button type="submit" tone={values.side} disabled={sending || !ready || wrong !== null || condition?.ok === false}>
          {condition === null ? '' : 'wait, then '}
          {values.side} {wish.quantity} {instrument.ticker}
        </Button>
        <Button disabled={!isDirty && when === null} onClick={clear}>
          clear
        </Button>
      </div>
    </form>
  );
}
