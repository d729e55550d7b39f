import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import { nextEvent } from '../../../client/next-event.ts';
import { formatPrice, isListed, VENUES, type Instrument, type Price, type VenueId } from '../../../core/instrument/index.ts';
import { formatDay, tradingDay } from '../../../core/market/index.ts';
import { clockText } from '../../../kit/clock.ts';
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

function waitingWords(state: string, venue: VenueId, since: string, now: string | undefined): string {
  const { zone } = VENUES[venue];
  if (state === 'halted') return `halted ${clockText(zone, since, 'HH:mm')}: orders wait`;
  const opens = now === undefined ? null : nextEvent(Date.parse(now), { venues: [venue], intraday: [] });
  return opens?.words.endsWith('opens') ? `${state}: orders wait until ${clockText(zone, opens.at, 'HH:mm')}` : `${state}: orders wait`;
}

/** That nothing trades now, across the order areas; of what is not listed yet, from when on it does. */
export function Halted({ instrument }: { instrument: Instrument }) {
  const { id, venue, listsOn } = instrument;
  const known = quoteOf(id);
  const [told, setTold] = useState(known && { state: known.state, time: known.text.time });
  const now = useStore($clock)?.time;
  // Of a halt the first quote that says so tells its time.
  useEffect(() => followQuote(id, ({ state, text }) => setTold((before) => (before?.state === state ? before : { state, time: text.time }))), [id]);
  if (!told || told.state === 'open') return null;
  const listed = now === undefined || isListed(instrument, formatDay(tradingDay(venue, Date.parse(now))));
  return (
    <p className="plate heather absolute left-1/2 top-1/3 -translate-x-1/2" data-testid="halted">
      {listed ? waitingWords(told.state, venue, told.time, now) : `listed from ${listsOn} on`}
    </p>
  );
}
