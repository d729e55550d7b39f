import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import { setSize } from '../../client/session.ts';
import { HEARD, sizeWorth, type SizeWorth as Worth } from '../../client/size-worth.ts';
import type { Instrument } from '../../core/instrument/index.ts';
import { grouped } from '../../kit/Figure.tsx';
import { $accounts, followQuote } from '../../live/index.ts';

const LOOK_EVERY_MS = 500;

/** What a size is worth, what a tick of it makes, and how much the account could buy: that can be taken. */
export function SizeWorth({ account, instrument, size }: { account: string; instrument: Instrument; size: string }) {
  const known = useStore($accounts)[account];
  const [worth, setWorth] = useState<Worth | null>(null);
  useEffect(() => {
    const look = (): void => {
      const next = sizeWorth(instrument, size, known, HEARD);
      setWorth((before) => (JSON.stringify(before) === JSON.stringify(next) ? before : next));
    };
    look();
    const stop = followQuote(instrument.id, () => undefined);
    const timer = setInterval(look, LOOK_EVERY_MS);
    return () => {
      stop();
      clearInterval(timer);
    };
  }, [instrument, size, known]);
  if (!worth) return <p className="h-[18px] shrink-0 px-1 text-[12px] text-quiet">–</p>;
  const { value, tick, canBuy } = worth;
  return (
    <p className="flex h-[18px] shrink-0 items-center gap-2 overflow-hidden whitespace-nowrap px-1 text-[12px] text-quiet" data-testid="size-worth">
      <span>
        value <span className="figure text-ink">{grouped(value)}</span>
      </span>
      {tick !== null && (
        <span>
          a tick <span className="figure text-ink">{tick}</span>
        </span>
      )}
      {canBuy !== null && (
        <button type="button" className="ml-auto underline underline-offset-2" onClick={() => setSize(account, instrument.id, canBuy)}>
          can buy <span className="figure text-ink">{grouped(canBuy)}</span>
        </button>
      )}
    </p>
  );
}
