import { atom } from 'nanostores';
import type { TopicMessage } from './protocol.ts';

/** Updates a second that a window takes of quotes, depth and bars; 60 is all that the stream gives. */
export const DATA_RATES = [60, 10, 2] as const;
export type DataRate = (typeof DATA_RATES)[number];

const KEY = 'kavix.rate';
const CONFLATED = /^(quote|depth|bars):/;

export const $dataRate = atom<DataRate>(60);
/** Changes that were merged into newer ones since the rate was chosen. */
export const $merged = atom(0);

let waiting = new Map<string, TopicMessage>();
let timer: ReturnType<typeof setInterval> | undefined;
let merged = 0;
let deliver: (messages: readonly TopicMessage[]) => void = () => undefined;

/** Chooses this window's rate; it is kept as long as the window. */
export function setDataRate(rate: DataRate): void {
  sessionStorage.setItem(KEY, String(rate));
  $dataRate.set(rate);
  clearInterval(timer);
  flush();
  merged = 0;
  $merged.set(0);
  if (rate < 60) timer = setInterval(flush, 1000 / rate);
}

/** Where what is let through goes. Takes up the rate this window had before it was loaded again. */
export function beginRate(to: typeof deliver): void {
  deliver = to;
  setDataRate(DATA_RATES.find((rate) => String(rate) === sessionStorage.getItem(KEY)) ?? 60);
}

/** Lets messages through at once, but for market data of a slowed window: of that the newest waits for its turn. */
export function passOn(messages: readonly TopicMessage[]): void {
  if ($dataRate.get() === 60) {
    deliver(messages);
    return;
  }
  const through = messages.filter((message) => {
    if (!CONFLATED.test(message.topic)) return true;
    if (message.snapshot) {
      // What waited was of before it.
      waiting.delete(message.topic);
      return true;
    }
    if (waiting.has(message.topic)) merged++;
    waiting.set(message.topic, message);
    return false;
  });
  if (through.length > 0) deliver(through);
}

function flush(): void {
  if (waiting.size > 0) {
    const due = [...waiting.values()];
    waiting = new Map();
    deliver(due);
  }
  if (merged !== $merged.get()) $merged.set(merged);
}
