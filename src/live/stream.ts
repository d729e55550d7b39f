import { atom } from 'nanostores';
import type { Beat, FromStream, ToStream, TopicMessage } from './protocol.ts';
import { beginRate, passOn } from './rate.ts';
import { hearShared, tellShared } from './shared.ts';

type Listener = (data: never, snapshot: boolean) => void;

/** Whether this window hears Kavix, since when, and when it last did (machine time). */
export const $screen = atom<{ readonly open: boolean; readonly since: number; readonly heardAt: number }>({ open: false, since: Date.now(), heardAt: 0 });
/** The newest beat, and when it came by this machine's clock. */
export const $beat = atom<(Beat & { readonly at: number }) | null>(null);

/** What the server would not let this window follow, and why. */
export const $refused = atom<{ readonly topics: readonly string[]; readonly words: string } | null>(null);

const listeners = new Map<string, Set<Listener>>();
const newest = new Map<string, unknown>();
/** Topics that were followed, or by one more, since the worker was told: it may know them from a moment ago. */
const begun = new Set<string>();
/** Of these the newest message is not all there is. */
const MANY = /^(trades:|orders$|fills$|positions$|news$)/;
let port: MessagePort | null = null;
let csrf = '';
let scheduled = false;

const post = (message: ToStream): void => port?.postMessage(message);

function announce(): void {
  scheduled = false;
  post({ kind: 'topics', topics: [...listeners.keys()], anew: [...begun], csrf });
  begun.clear();
}

function schedule(): void {
  if (scheduled || !port) return;
  scheduled = true;
  queueMicrotask(announce);
}

function deliver(messages: readonly TopicMessage[]): void {
  for (const { topic, data, snapshot } of messages) {
    newest.set(topic, data);
    for (const listener of listeners.get(topic) ?? []) (listener as (data: unknown, snapshot: boolean) => void)(data, snapshot);
  }
}

/** Opens this window's end of the stream. */
export function openStream(token: string): void {
  csrf = token;
  beginRate(deliver);
  const worker = new SharedWorker(new URL('./stream-worker.ts', import.meta.url), { type: 'module', name: 'kavix-stream' });
  port = worker.port;
  port.onmessage = ({ data }: MessageEvent<FromStream>) => receive(data);
  tellShared((key, value) => post({ kind: 'share', key, value }));
  window.addEventListener('pagehide', () => post({ kind: 'close' }));
  schedule();
}

function receive(message: FromStream): void {
  switch (message.kind) {
    case 'topics':
      passOn(message.messages);
      break;
    case 'beat':
      $beat.set({ ...message.beat, at: message.at });
      $screen.set({ ...$screen.get(), open: true, heardAt: message.at });
      break;
    case 'status':
      $screen.set({ open: message.open, since: message.since, heardAt: message.open ? Date.now() : $screen.get().heardAt });
      break;
    case 'shared':
      hearShared(message.values);
      break;
    case 'refused':
      $refused.set(message);
      break;
    case 'signed-out':
      window.location.assign('/sign-in');
      break;
    default:
      message satisfies never;
  }
}

/**
 * Follows a topic: the listener is called with its snapshot and every change, and at once with what is
 * known of a topic that is one value.
 *
 * @returns stops following
 */
export function follow<T>(topic: string, listener: (data: T, snapshot: boolean) => void): () => void {
  const own = listener as Listener;
  let set = listeners.get(topic);
  if (!set) {
    listeners.set(topic, (set = new Set<Listener>()));
    newest.delete(topic);
    begun.add(topic);
    schedule();
  } else if (MANY.test(topic)) {
    begun.add(topic);
    schedule();
  } else if (newest.has(topic)) listener(newest.get(topic) as T, true);
  set.add(own);
  return () => {
    set.delete(own);
    if (set.size > 0 || listeners.get(topic) !== set) return;
    listeners.delete(topic);
    schedule();
  };
}
