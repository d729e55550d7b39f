import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import { setSize } from '../../client/session.ts';
import { HEARD, sizeWorth, type SizeWorth as Worth } from '../../client/size-worth.ts';
import type { Instrument } from '../../core/instrument/index.ts';
import { grouped } from '../../kit/Figure.tsx';
import { later, usePart } from '../../kit/later.ts';
import { usePlatePlan } from './queries.tsx';
import { $accounts, $risk, followQuote } from '../../live/index.ts';

const LOOK_EVERY_MS = 500;

const RISK = later(() => import('./within-risk.ts'));

/** What a size is worth, what a tick of it makes, and how much the account could buy: that can be taken. */
export function SizeWorth({ account, instrument, size }: { account: string; instrument: Instrument; size: string }) {
  const known = useStore($accounts)[account];
  const left = useStore($risk)[account]?.left ?? null;
  const plan = usePlatePlan(account, instrument.id);
  // Without a stop, or a limit of the day, there is no size within it.
  const risk = usePart(RISK, plan !== null && left !== null);
  const [worth, setWorth] = useState<(Worth & { readonly inRisk: string | null }) | null>(null);
  useEffect(() => {
    const look = (): void => {
      const worthNow = sizeWorth(instrument, size, known, HEARD);
      const next = worthNow && { ...worthNow, inRisk: known && plan !== null && left !== null && risk ? risk.withinRisk(known, instrument, plan, left) : null };
      setWorth((before) => (JSON.stringify(before) === JSON.stringify(next) ? before : next));
    };
    look();
    const stop = followQuote(instrument.id, () => undefined);
    const timer = setInterval(look, LOOK_EVERY_MS);
    return () => {
      stop();
      clearInterval(timer);
    };
  }, [instrument, size, known, left, plan, risk]);
  if (!worth) return <p className="h-[18px] shrink-0 px-1 text-[12px] text-quiet">–</p>;
  const { value, tick, canBuy, inRisk } = worth;
  return (
    <p className="flex h-[18px] shrink-0 items-center gap-[6px] overflow-hidden whitespace-nowrap px-1 text-[12px] text-quiet" data-testid="size-worth">
      <span>
        value <span className="figure text-ink">{grouped(value)}</span>
      </span>
      {tick !== null && (
        <span>
          a tick <span className="figure text-ink">{tick}</span>
        </span>
      )}
      {inRisk !== null && (
        <button
          type="button"
          className="ml-auto underline underline-offset-2"
          title="What the plan on the plate loses at its stop is then within what is left of the day"
          onClick={() => setSize(account, instrument.id, inRisk)}
        >
          in today’s risk <span className="figure text-ink">{grouped(inRisk)}</span>
        </button>
      )}
      {canBuy !== null && (
        <button type="button" className="first-of-type:ml-auto underline underline-offset-2" onClick={() => setSize(account, instrument.id, canBuy)}>
          can buy <span className="figure text-ink">{grouped(canBuy)}</span>
        </button>
      )}
    </p>
  );
}
