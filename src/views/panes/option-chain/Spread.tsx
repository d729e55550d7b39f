import { answer } from '../../../client/answers.ts';
import { accountFor, sizeOf } from '../../../client/session.ts';
import { newRow, requestOf } from '../../../client/baskets.ts';
import { planFor } from '../../../client/exit-plans.ts';
import { spreadWords, type SpreadLeg } from '../../../client/spread.ts';
import { Button } from '../../../kit/Button.tsx';
import { instrumentOf, problemWords, request } from '../../../live/index.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { $panes, setPaneSetting } from '../../workspace/panes.ts';
import { Payoff } from './Payoff.tsx';

/** The legs that were gathered: their sentence, their picture, and the way to a basket, each with the exit plan that is on its plate. */
export function Spread({ pane, legs, days, onClear }: { pane: string; legs: readonly SpreadLeg[]; days: number; onClear: () => void }) {
  const asked = legs.map(({ instrument, quantity, price }) => ({ instrument, quantity: String(quantity), price }));
  const { data: payoff = null } = useAsked('POST /api/options/payoff', { body: { legs: asked } }, { freshMs: 1000 });
  const unit = Number(instrumentOf(legs[0]?.instrument ?? '')?.multiplier ?? 1);
  const asBasket = async (): Promise<void> => {
    const rows = legs.map(({ instrument, quantity, price }) => {
      const account = accountFor(instrument);
      const contracts = Math.abs(quantity) * Number(sizeOf(account, instrument) || '1');
      return requestOf(
        newRow(account, {
          instrument,
          side: quantity > 0 ? 'buy' : 'sell',
          quantity: String(contracts),
          price,
          setup: 'Spread',
          plan: planFor(account, instrument) ?? '',
        }),
      );
    });
    const taken = await request('GET /api/baskets');
    const names = taken.ok ? taken.value.items.map(({ name }) => name) : [];
    let n = 1;
    while (names.includes(`Spread ${n}`)) n++;
    const done = await request('POST /api/baskets', { body: { name: `Spread ${n}`, rows } });
    if (!done.ok) return answer(pane, 'refused', problemWords(done.problem));
    await askAgain('GET /api/baskets');
    const basket = Object.values($panes.get()).find(({ kind }) => kind === 'Basket');
    if (basket) setPaneSetting(basket.id, 'basket', `Spread ${n}`);
    answer(pane, 'done', `Spread ${n} is a basket${basket ? '' : ': open a Basket pane to send it'}`);
  };
  return (
    <section className="shrink-0 border-t border-hair px-2 py-1" aria-label="The spread">
      <p>{spreadWords(legs, payoff, unit, instrumentOf)}</p>
      <Payoff legs={asked} days={days}>
        <span className="flex gap-1">
          <Button size="small" onClick={() => void asBasket()}>
            as a basket
          </Button>
          <Button size="small" onClick={onClear}>
            let it go
          </Button>
        </span>
      </Payoff>
    </section>
  );
}
