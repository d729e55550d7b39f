import { MoveVertical } from 'lucide-react';
import { useEffect } from 'react';
import { planFor } from '../../../client/exit-plans.ts';
import { act, exitMoney, pulledExit, pulledPlan, type PulledExit } from '../../../client/gestures/index.ts';
import { inR, moneyPlaces } from '../../../client/position-figures.ts';
import { dragsStop } from '../../../client/would-risk.ts';
import { formatPrice, sizeOf, type Instrument, type Price } from '../../../core/instrument/index.ts';
import { grouped, resultClass, shortened, signed, signedShort } from '../../../kit/Figure.tsx';
import { quoteOf, type LivePosition } from '../../../live/index.ts';
import type { ChartController } from './controller.ts';
import { usePull } from './use-pull.ts';

interface Props {
  readonly plot: ChartController;
  readonly held: LivePosition;
  readonly draggable: boolean;
}

const exitWords = ({ leg, price, quantity, money, r, ticks }: PulledExit, instrument: Instrument): string =>
  `${leg} for ${grouped(quantity)} at ${formatPrice(instrument, price)} · ${ticks} ticks · ${signed(money)}${r === null ? '' : ` · ${signed(r)} R`}`;

/**
 * The position on its line. Its handle is pulled to the losing side for a stop on all of it, to the winning side for a
 * target; with the keys, `↑ ↓` pull and `Enter` lets go.
 */
export function PositionHandle({ plot, held, draggable }: Props) {
  const { model } = plot;
  const { pane: id, instrument } = plot.of;
  const average = held.units.average ?? 0;
  const market = quoteOf(instrument.id);
  const pulled = (to: Price) => (market ? pulledExit(instrument, held, to, market) : null);
  const { to, byPointer, byKey } = usePull(plot, average, (at) => {
    const exit = pulled(at);
    if (exit?.ok) act(id, 'chart', { kind: 'put-plan', account: held.account, instrument: instrument.id, plan: pulledPlan(instrument, exit.value) });
  });
  const found = to === null ? null : pulled(to);
  const stop = found?.ok && found.value.leg === 'stop' ? found.value.price : null;
  useEffect(() => {
    if (stop === null) return undefined;
    dragsStop(held, exitMoney(instrument, held, sizeOf(held.units.quantity), stop, held.units.mark ?? undefined), true);
    return () => dragsStop(held, null, true);
  }, [stop, held, instrument]);
  const plan = planFor(held.account, instrument.id);
  const multiple = inR(held.unrealised, held.firstRisk);
  const words = `${held.units.quantity > 0 ? 'long' : 'short'} ${grouped(held.quantity.replace('-', ''))}`;
  return (
    <>
      <span
        data-at={average}
        className={`absolute left-1 top-0 flex h-[24px] items-center rounded-[2px] border border-line bg-pane ${draggable ? 'pointer-events-auto' : ''}`}
        data-testid="position-mark"
      >
        {draggable && (
          <button
            type="button"
            className="grid h-[22px] w-[24px] cursor-ns-resize touch-none place-items-center border-r border-line"
            aria-label={`Exit of ${words} ${instrument.id}: pull against it for a stop, with it for a target`}
            title="Pull to the losing side for a stop on all of it, to the winning side for a target"
            data-testid="position-handle"
            {...byPointer}
            {...byKey}
          >
            <MoveVertical size={12} />
          </button>
        )}
        <span className="px-2 leading-[16px]">
          {/* The label font's tilde is nearly a minus: a shortened price must not look negative. */}
          {words} at <span className="figure">{shortened(held.averagePrice ?? '', instrument.priceDecimals + 1)}</span> ·{' '}
          <b className={`figure ${resultClass(held.unrealised)}`}>
            {signedShort(held.unrealised, moneyPlaces(held.currency))}
            {multiple === null ? '' : ` · ${signed(multiple)} R`}
          </b>
        </span>
        {draggable && plan !== null && (
          <button
            type="button"
            className="h-[22px] border-l border-line px-2"
            title={`Puts all steps of ${plan} on it`}
            onClick={() => act(id, 'chart', { kind: 'put-plan', account: held.account, instrument: instrument.id, plan })}
          >
            lay {plan}
          </button>
        )}
      </span>
      {to !== null && (
        <div className="absolute inset-x-0 z-20" style={{ top: model.view.y(to) }} role="status" data-testid="pulled-exit">
          <div className={`border-t ${found?.ok ? 'border-(--brass-line) border-dashed' : 'border-quiet border-dotted'}`} />
          <span
            className={`absolute right-1 top-[-11px] rounded-[2px] border border-dashed bg-pane px-2 leading-[20px] ${found?.ok ? 'border-(--brass-line)' : 'border-line text-quiet'}`}
          >
            {found?.ok ? exitWords(found.value, instrument) : (found?.refusal ?? 'no price to tell by')}
          </span>
        </div>
      )}
    </>
  );
}
