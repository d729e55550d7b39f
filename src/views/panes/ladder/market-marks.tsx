import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import { formatPrice, isListed, type Instrument, type Price } from '../../../core/instrument/index.ts';
import { formatDay, tradingDay } from '../../../core/market/index.ts';
import { $clock, followQuote, quoteOf } from '../../../live/index.ts';

/** The last price, where it is above or below all that is in view. */
export function OutOfView({ prices, instrument }: { prices: readonly Price[]; instrument: Instrument }) {
  const [top, bottom] = [prices[0], prices[prices.length - 1]];
  const [last, setLast] = useState<Price | null>(quoteOf(instrument.id)?.last ?? null);
  useEffect(() => followQuote(instrument.id, (quote) => setLast(quote.last)), [instrument.id]);
  if (last === null || top === undefined || bottom === undefined || (last <= top && last >= bottom)) return null;
  const above = last > top;
  return (
    <span className={`plate pending absolute left-1/2 bg-pane ${above ? 'top-0' : 'bottom-[22px]'} figure`} data-testid="out-of-view">
      {above ? '↑' : '↓'} {formatPrice(instrument, last)}
    </span>
  );
}

/** That nothing trades now, across the order areas; of what is not listed yet, from when on it does. */
export function Halted({ instrument }: { instrument: Instrument }) {
  const { id, venue, listsOn } = instrument;
  const [state, setState] = useState(quoteOf(id)?.state ?? null);
  const now = useStore($clock)?.time;
  useEffect(() => followQuote(id, (quote) => setState(quote.state)), [id]);
  if (state === null || state === 'open') return null;
  const listed = now === undefined || isListed(instrument, formatDay(tradingDay(venue, Date.parse(now))));
  return (
    <p className="plate heather absolute left-1/2 top-1/3 -translate-x-1/2" data-testid="halted">
      {listed ? `${state}: orders wait` : `listed from ${listsOn} on`}
    </p>
  );
}
