import { useStore } from '@nanostores/react';
import { useEffect, useRef, useState } from 'react';
import { $lamps } from '../../client/lamps.ts';
import { VENUES } from '../../core/instrument/index.ts';
import { clockText } from '../../kit/clock.ts';
import { grouped } from '../../kit/Figure.tsx';
import { $clock, $fills, $link, $working, type ApiFill } from '../../live/index.ts';

const { zone } = VENUES.HALM;
const clock = (time: string | null | undefined): string => (time ? clockText(zone, time) : '–');

/** How long something took, in minutes and seconds. */
function awayWords(from: string, to: string): string {
  const seconds = Math.max(0, Math.round((Date.parse(to) - Date.parse(from)) / 1000));
  return seconds < 60 ? `${seconds} s` : `${Math.floor(seconds / 60)} min ${seconds % 60} s`;
}

const MOST_TOLD = 3;
const fillWords = ({ side, quantity, instrument, price }: ApiFill): string =>
  `${side === 'buy' ? 'bought' : 'sold'} ${grouped(quantity)} ${instrument.slice(0, instrument.lastIndexOf('.'))} at ${price}`;

/** What filled while the broker was away. */
function filledWords(since: string): string {
  const missed = $fills.get().filter(({ time }) => time >= since);
  if (missed.length === 0) return 'Nothing filled meanwhile.';
  const told = missed.slice(0, MOST_TOLD).map(fillWords).join('; ');
  return `Meanwhile ${told}${missed.length > MOST_TOLD ? `, and ${missed.length - MOST_TOLD} fills more` : ''}.`;
}

/** What a lost link means, over the tab line; it pushes nothing down. The one that says it is back stays until read. */
export function Bands() {
  const { screen, data, broker } = useStore($lamps);
  const link = useStore($link);
  const orders = useStore($working);
  const [back, setBack] = useState<string | null>(null);
  const brokerDown = useRef<string | null>(null);
  useEffect(() => {
    if (link?.broker === 'down') brokerDown.current ??= link.brokerSince;
    else if (link?.broker === 'up' && brokerDown.current !== null) {
      const since = brokerDown.current;
      brokerDown.current = null;
      setBack(`Broker back ${clock(link.brokerSince)}, away ${awayWords(since, link.brokerSince)}. ${filledWords(since)}`);
    }
  }, [link]);
  // The market's time at which this screen last heard of it.
  const lostAt = useRef<string | null>(null);
  if (screen.state !== 'down') lostAt.current = null;
  else lostAt.current ??= $clock.get()?.time ?? null;
  // What is old looks old everywhere.
  const fresh = screen.state === 'up' && data.state === 'up';
  useEffect(() => {
    document.documentElement.dataset['stale'] = fresh ? 'no' : 'yes';
  }, [fresh]);
  const working = Object.values(orders).flat().length;
  const words =
    screen.state === 'down'
      ? `This screen lost Kavix at ${clock(lostAt.current)}. What you see is old. Orders at the venue go on without it. Nothing done here is sent.`
      : link?.broker === 'down' || broker.state === 'down'
        ? `No link to the broker since ${clock(link?.brokerSince)}. ${working} ${working === 1 ? 'order' : 'orders'} at the venue ${working === 1 ? 'goes' : 'go'} on there. Nothing can be sent.`
        : link?.data === 'down' || data.state === 'down'
          ? `No prices since ${clock(link?.dataSince)}. Nothing here sees its market. The broker link works: you can close.`
          : null;
  const shown = words ?? back;
  if (shown === null) return null;
  return (
    <div className="plate heather absolute left-14 top-0 z-50 flex h-[34px] max-w-[calc(100%-4.5rem)] items-center gap-4 px-3" role="alert" data-testid="band">
      <span className="truncate">{shown}</span>
      {words === null && (
        <button type="button" className="min-h-[24px] underline" onClick={() => setBack(null)}>
          read
        </button>
      )}
    </div>
  );
}
