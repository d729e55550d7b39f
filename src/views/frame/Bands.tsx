import { useStore } from '@nanostores/react';
import { useEffect, useRef, useState } from 'react';
import { $lamps } from '../../client/lamps.ts';
import { $link, $orders, $screen, isWorking } from '../../live/index.ts';

const clock = (time: number | string): string => new Date(time).toISOString().slice(11, 19);

/** What a lost link means, over the tab line; it pushes nothing down. The one that says it is back stays until read. */
export function Bands() {
  const { screen, data, broker } = useStore($lamps);
  const link = useStore($link);
  const lost = useStore($screen);
  const orders = useStore($orders);
  const [back, setBack] = useState<string | null>(null);
  const downSince = useRef<number | null>(null);
  useEffect(() => {
    if (link?.broker === 'down') downSince.current ??= Date.now();
    else if (downSince.current !== null) {
      const seconds = Math.round((Date.now() - downSince.current) / 1000);
      downSince.current = null;
      setBack(`Broker back ${clock(link?.brokerSince ?? Date.now())}, away ${seconds} s. What happened meanwhile is in Orders and Fills.`);
    }
  }, [link]);
  // What is old looks old everywhere.
  const fresh = screen.state === 'up' && data.state === 'up';
  useEffect(() => {
    document.documentElement.dataset['stale'] = fresh ? 'no' : 'yes';
  }, [fresh]);
  const working = Object.values(orders).filter(isWorking).length;
  const words =
    screen.state === 'down'
      ? `This screen lost Kavix at ${clock(lost.since)}. What you see is old. Orders at the venue go on without it. Nothing done here is sent.`
      : link?.broker === 'down' || broker.state === 'down'
        ? `No link to the broker since ${clock(link?.brokerSince ?? Date.now())}. ${working} ${working === 1 ? 'order goes' : 'orders go'} on at the venue. Nothing can be sent.`
        : link?.data === 'down' || data.state === 'down'
          ? `No prices since ${clock(link?.dataSince ?? Date.now())}. The broker link works: you can close.`
          : null;
  const shown = words ?? back;
  if (shown === null) return null;
  return (
    <div className="plate heather absolute left-14 top-0 z-50 flex h-[34px] max-w-[calc(100%-4.5rem)] items-center gap-4 !px-3" role="alert" data-testid="band">
      <span className="truncate">{shown}</span>
      {words === null && (
        <button type="button" className="min-h-[24px] underline" onClick={() => setBack(null)}>
          read
        </button>
      )}
    </div>
  );
}
