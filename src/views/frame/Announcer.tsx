import { useEffect, useState } from 'react';
import { $alerts, $fills, $orders, firingsAfter } from '../../live/index.ts';

const CONFLATE_MS = 1500;

/** Says fills and rejections to those who listen: politely, several at once in one sentence. */
export function Announcer() {
  const [text, setText] = useState('');
  useEffect(() => {
    let waiting: string[] = [];
    let timer: ReturnType<typeof setTimeout> | null = null;
    const say = (words: string): void => {
      waiting.push(words);
      timer ??= setTimeout(() => {
        setText(waiting.join('. '));
        waiting = [];
        timer = null;
      }, CONFLATE_MS);
    };
    let seen = $fills.get()[$fills.get().length - 1]?.seq ?? -1;
    const offFills = $fills.listen((fills) => {
      for (const fill of fills.filter(({ seq }) => seq > seen).slice(-3))
        say(`${fill.side === 'buy' ? 'Bought' : 'Sold'} ${fill.quantity} ${fill.instrument} at ${fill.price}`);
      seen = fills[fills.length - 1]?.seq ?? seen;
    });
    let told = firingsAfter($alerts.get(), -1)[0]?.seq ?? null;
    const offAlerts = $alerts.listen((alerts) => {
      if (told !== null) for (const { text } of firingsAfter(alerts, told).slice(0, 3)) say(`Alert: ${text}`);
      told = firingsAfter(alerts, told ?? -1)[0]?.seq ?? told ?? 0;
    });
    const offOrders = $orders.listen(({ changed }) => {
      if (changed?.state === 'rejected') say(`Rejected: ${changed.sentence} ${changed.reason ?? ''}`);
    });
    return () => {
      offFills();
      offOrders();
      offAlerts();
      if (timer) clearTimeout(timer);
    };
  }, []);
  return (
    <p role="status" aria-live="polite" className="sr-only">
      {text}
    </p>
  );
}
