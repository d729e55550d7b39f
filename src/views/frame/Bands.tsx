import { useStore } from '@nanostores/react';
import { useEffect, useRef, useState } from 'react';
import { $lamps } from '../../client/lamps.ts';
import { VENUES } from '../../core/instrument/index.ts';
import { clockText } from '../../kit/clock.ts';
import { $clock, $fills, $link, $plans, $working } from '../../live/index.ts';
import { backWords, brokerLost, exitsHere, heldUp, pricesLost, screenLost, type Away, type BandWords } from './lost-links.ts';

const { zone } = VENUES.HALM;
const clock = (time: string | null | undefined): string => (time ? clockText(zone, time) : '–');
const LINKS = [
  ['Broker', 'broker', 'brokerSince'],
  ['Prices', 'data', 'dataSince'],
] as const;

/** What a lost link means, over the tab line; it pushes nothing down. The one that says it is back stays until read. */
export function Bands() {
  const { screen, data, broker } = useStore($lamps);
  const link = useStore($link);
  const orders = Object.values(useStore($working)).flat();
  const plans = useStore($plans);
  const fills = useStore($fills);
  const [back, setBack] = useState<Away | null>(null);
  /** Since when each link is down, and what that holds up. */
  const down = useRef<Partial<Record<'broker' | 'data', Pick<Away, 'from' | 'exits'>>>>({});
  useEffect(() => {
    for (const [what, name, sinceName] of LINKS) {
      const before = down.current[name];
      if (link?.[name] === 'down')
        down.current[name] = { from: before?.from ?? link[sinceName], exits: heldUp(before?.exits ?? [], exitsHere(Object.values(plans), orders)) };
      if (link?.[name] !== 'up' || before === undefined) continue;
      delete down.current[name];
      setBack({ what, to: link[sinceName], ...before });
    }
  }, [link, plans, orders]);
  // The market's time at which this screen last heard of it.
  const lostAt = useRef<string | null>(null);
  if (screen.state !== 'down') lostAt.current = null;
  else lostAt.current ??= $clock.get()?.time ?? null;
  // What is old looks old everywhere.
  const fresh = screen.state === 'up' && data.state === 'up';
  useEffect(() => {
    document.documentElement.dataset['stale'] = fresh ? 'no' : 'yes';
  }, [fresh]);
  const lost = (): BandWords | null => {
    if (screen.state === 'down') return screenLost(clock(lostAt.current));
    const exits = exitsHere(Object.values(plans), orders);
    if (link?.broker === 'down' || broker.state === 'down')
      return brokerLost(
        clock(link?.brokerSince),
        exits.filter(({ suspended }) => suspended),
        orders.filter(({ heldBy }) => heldBy === 'venue').length,
      );
    return link?.data === 'down' || data.state === 'down' ? pricesLost(clock(link?.dataSince), exits) : null;
  };
  const words = lost();
  const told = back && backWords(back, clock(back.to), plans, fills);
  if (words === null && told === null) return null;
  return (
    <div
      className="plate heather absolute left-14 top-0 z-50 flex min-h-[34px] max-w-[calc(100%-4.5rem)] items-center gap-4 px-3"
      role="alert"
      data-testid="band"
    >
      <span
        className="line-clamp-2 min-w-0 whitespace-normal text-[12px] leading-[16px]"
        title={words ? `${words.before}${words.strong}${words.after}` : (told ?? '')}
      >
        {words?.before ?? told}
        {words && <b>{words.strong}</b>}
        {words?.after}
      </span>
      {words === null && (
        <button type="button" className="min-h-[24px] underline" onClick={() => setBack(null)}>
          read
        </button>
      )}
    </div>
  );
}
