import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import type { OrderWish } from '../../client/gestures/intent.ts';
import { $riskAmounts, leavesWords, rememberRisk } from '../../client/risk-size.ts';
import { SIZE_BY, sizePhrase, type SizeBy as By } from '../../client/size-by.ts';
import { Button } from '../../kit/Button.tsx';
import { Choice } from '../../kit/Choice.tsx';
import { Field } from '../../kit/Field.tsx';
import { grouped } from '../../kit/Figure.tsx';
import { Popover } from '../../kit/Popover.tsx';
import { $risk, problemWords } from '../../live/index.ts';
import { useAsked } from './queries.tsx';

const AGAIN_MS = 1000;
const ASK_AFTER_MS = 150;

const BY_WORDS: Readonly<Record<By, string>> = {
  risk: 'money at risk',
  money: 'money, fees included',
  'buying power': '% of buying power',
  equity: '% of equity',
  position: '% of the position',
};

/** The size of an order from what may be risked or spent: reckoned as an order phrase says it, with what it leaves of the day. */
export function SizeBy({
  wish,
  onTake,
}: {
  wish: Pick<OrderWish, 'account' | 'instrument' | 'side' | 'type'> & Partial<OrderWish>;
  onTake: (quantity: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const [by, setBy] = useState<By>('risk');
  const [amount, setAmount] = useState($riskAmounts.get()[wish.account] ?? '');
  const [to, setTo] = useState('');
  const phrase = sizePhrase({ by, amount: amount.trim(), to: to.trim() }, wish);
  const [still, setStill] = useState(phrase);
  useEffect(() => {
    const timer = setTimeout(() => setStill(phrase), ASK_AFTER_MS);
    return () => clearTimeout(timer);
  }, [phrase]);
  const { account, instrument } = wish;
  const { data, error } = useAsked(
    'POST /api/phrases/order',
    { body: { phrase: still ?? '', account, instrument } },
    { everyMs: AGAIN_MS, when: open && still !== null },
  );
  const left = useStore($risk)[account]?.left ?? null;
  const sized = still === phrase && data?.ok ? data.requests[0] : undefined;
  const quantity = (sized as { quantity?: string } | undefined)?.quantity ?? null;
  const take = (): void => {
    if (quantity === null) return;
    onTake(quantity);
    if (by === 'risk') rememberRisk(account, amount.trim());
    setOpen(false);
  };
  const money = by === 'risk' || by === 'money';
  return (
    <Popover label="The size from" open={open} onOpen={setOpen} trigger={<Button size="small">by …</Button>}>
      <form
        className="grid w-[300px] gap-1"
        // Its keys are its own: what it stands in would send at Enter.
        onKeyDown={(event) => event.stopPropagation()}
        onSubmit={(event) => {
          event.preventDefault();
          event.stopPropagation();
          take();
        }}
      >
        <Field label="size from">
          <Choice label="Size from" className="w-[170px]" value={by} options={SIZE_BY.map((value) => ({ value, words: BY_WORDS[value] }))} onPick={setBy} />
        </Field>
        <Field label={money ? 'money' : 'percent'}>
          <input
            className="field figure w-[170px]"
            aria-label={money ? 'Money' : 'Percent'}
            inputMode="decimal"
            value={amount}
            onChange={(event) => setAmount(event.target.value)}
          />
        </Field>
        {by === 'risk' && (
          <Field label="at risk to">
            <input
              className="field figure w-[170px]"
              aria-label="At risk to"
              placeholder="a price, or ask - 1 %"
              value={to}
              onChange={(event) => setTo(event.target.value)}
            />
          </Field>
        )}
        {by === 'risk' && left !== null && Number(left) > 0 && (
          <Button size="small" className="self-start justify-self-end" onClick={() => setAmount(left)}>
            all that is left today: {left}
          </Button>
        )}
        <p className="min-h-[36px] text-quiet" role="status">
          {error ? problemWords(error.problem) : still === null ? 'Say how much.' : data && !data.ok ? data.error?.message : data?.reading}
        </p>
        {by === 'risk' && left !== null && quantity !== null && <p className="text-quiet">Lost: {leavesWords(left, amount)}.</p>}
        <Button type="submit" disabled={quantity === null}>
          {quantity === null ? 'take it' : `take ${grouped(quantity)}`}
        </Button>
      </form>
    </Popover>
  );
}
