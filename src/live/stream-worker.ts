/// <reference lib="webworker" />
import type { Beat, FromStream, ToStream, TopicMessage } from './protocol.ts';
import { StreamMachine, type StreamEffect, type StreamEvent } from './stream-machine.ts';

declare const self: SharedWorkerGlobalScope;

const FLUSH_MS = 2;
/** What the market says many times a second. */
const CONFLATED = /^(quote|depth|bars|trades):/;
const TICK_MS = 250;

/** The one stream of all windows: what it does is decided by the machine, and done here. */
const machine = new StreamMachine(Date.now());
const ports = new Map<number, MessagePort>();
/** What the windows have in common, for those that join later. */
const common: Record<string, unknown> = {};
let windows = 0;
let source: EventSource | null = null;
let csrf = '';
/** Messages that wait for the next flush, by window. */
const pending = new Map<number, { readonly messages: TopicMessage[]; readonly at: number }>();
let flushing = false;

const post = (window: number, message: FromStream): void => ports.get(window)?.postMessage(message);

function flush(): void {
  flushing = false;
  for (const [window, waiting] of pending) post(window, { kind: 'topics', ...waiting });
  pending.clear();
}

function handle(event: StreamEvent): void {
  for (const effect of machine.handle(event, Date.now())) carryOut(effect);
}

function carryOut(effect: StreamEffect): void {
  switch (effect.do) {
    case 'open':
      open();
      break;
    case 'close':
      source?.close();
      source = null;
      break;
    case 'ask session':
      void askSession();
      break;
    case 'update':
      void update(effect);
      break;
    case 'tell':
      tell(effect.window, effect.message);
      break;
    default:
      effect satisfies never;
  }
}

function tell(window: number, message: FromStream): void {
  if (message.kind !== 'topics') {
    post(window, message);
    return;
  }
  const waiting = pending.get(window);
  if (waiting) waiting.messages.push(...message.messages);
  else pending.set(window, { messages: [...message.messages], at: message.at });
  // What concerns the user's own orders waits for nothing, and takes along what came before it.
  if (message.messages.some(({ topic }) => !CONFLATED.test(topic))) flush();
  else if (!flushing) {
    flushing = true;
    setTimeout(flush, FLUSH_MS);
  }
}

function open(): void {
  source?.close();
  const own = new EventSource('/api/stream');
  source = own;
  // What an older stream still says is of no concern.
  const on = (name: string, take: (data: unknown) => StreamEvent): void =>
    own.addEventListener(name, (event: MessageEvent<string>) => source === own && handle(take(JSON.parse(event.data))));
  on('hello', (data) => ({ kind: 'hello', streamId: (data as { streamId: string }).streamId }));
  on('snapshot', (data) => ({ kind: 'message', message: { ...(data as Omit<TopicMessage, 'snapshot'>), snapshot: true } }));
  on('change', (data) => ({ kind: 'message', message: { ...(data as Omit<TopicMessage, 'snapshot'>), snapshot: false } }));
  on('reset', (data) => ({ kind: 'reset', topic: (data as { topic: string }).topic }));
  on('beat', (data) => ({ kind: 'beat', beat: data as Beat }));
  own.addEventListener('error', () => {
    if (source !== own) return;
    own.close();
    source = null;
    handle({ kind: 'broken' });
  });
}

async function askSession(): Promise<void> {
  const answer = await fetch('/api/session').catch(() => null);
  if (answer?.ok) csrf = ((await answer.json()) as { csrf: string }).csrf;
  handle({ kind: 'session', answer: answer?.ok ? 'signed in' : answer?.status === 401 ? 'signed out' : 'no answer' });
}

async function update({ streamId, topics, anew }: Extract<StreamEffect, { do: 'update' }>): Promise<void> {
  const answer = await fetch(`/api/stream/${streamId}/topics`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json', 'x-csrf-token': csrf },
    body: JSON.stringify({ topics, anew }),
  }).catch(() => null);
  if (answer === null || answer.status >= 500) handle({ kind: 'updated', answer: 'no answer' });
  else if (answer.ok) handle({ kind: 'updated', answer: 'done' });
  else if (answer.status === 404) handle({ kind: 'updated', answer: 'no such stream' });
  else {
    const { detail, errors = [] } = (await answer.json()) as { detail: string; errors?: { path: string; message: string }[] };
    const refused = errors.flatMap(({ path }) => (/^\/topics\/\d+$/.test(path) ? [Number(path.slice(8))] : []));
    handle({ kind: 'updated', answer: { refused, words: errors[0]?.message ?? detail } });
  }
}

setInterval(() => handle({ kind: 'tick' }), TICK_MS);

function hear(window: number, message: ToStream): void {
  switch (message.kind) {
    case 'close':
      ports.delete(window);
      pending.delete(window);
      handle({ kind: 'left', window });
      break;
    case 'share':
      common[message.key] = message.value;
      for (const other of ports.keys()) if (other !== window) post(other, { kind: 'shared', values: { [message.key]: message.value } });
      break;
    case 'topics':
      csrf = message.csrf;
      handle({ kind: 'topics', window, topics: message.topics, anew: message.anew });
      break;
    default:
      message satisfies never;
  }
}

self.onconnect = (event) => {
  const port = event.ports[0];
  if (!port) return;
  const window = ++windows;
  ports.set(window, port);
  port.onmessage = ({ data }: MessageEvent<ToStream>) => hear(window, data);
  handle({ kind: 'joined', window });
  post(window, { kind: 'shared', values: common });
};
