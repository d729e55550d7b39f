/// <reference lib="webworker" />
import type { Beat, FromStream, ToStream, TopicMessage } from './protocol.ts';

declare const self: SharedWorkerGlobalScope;

const RETRY_MS = 1000;
/** Without a word for this long the stream counts as lost, whatever the browser thinks. */
const SILENT_MS = 5000;
const FLUSH_MS = 8;

interface Window {
  readonly port: MessagePort;
  topics: ReadonlySet<string>;
}

const windows = new Set<Window>();
/** What the windows have in common, for those that join later. */
const common: Record<string, unknown> = {};
let source: EventSource | null = null;
let streamId: string | null = null;
let csrf = '';
let asked: readonly string[] = [];
let lastEventId = '';
let heardAt = 0;
let open = false;
let since = Date.now();
let pending: TopicMessage[] = [];
let flushing = false;

const wanted = (): string[] => [...new Set([...windows].flatMap((one) => [...one.topics]))].sort();

function tell(message: FromStream): void {
  for (const { port } of windows) port.postMessage(message);
}

function setOpen(is: boolean): void {
  if (open === is) return;
  open = is;
  since = Date.now();
  tell({ kind: 'status', open, since });
}

function flush(): void {
  flushing = false;
  const messages = pending;
  pending = [];
  for (const one of windows) {
    const mine = messages.filter((message) => one.topics.has(message.topic));
    if (mine.length > 0) one.port.postMessage({ kind: 'topics', messages: mine } satisfies FromStream);
  }
}

function take(snapshot: boolean): (event: MessageEvent<string>) => void {
  return (event) => {
    heardAt = Date.now();
    if (event.lastEventId !== '') lastEventId = event.lastEventId;
    const { topic, data } = JSON.parse(event.data) as { topic: string; data: unknown };
    pending.push({ topic, snapshot, data });
    if (flushing) return;
    flushing = true;
    setTimeout(flush, FLUSH_MS);
  };
}

function connect(): void {
  source?.close();
  streamId = null;
  asked = wanted();
  if (windows.size === 0) return;
  const query = new URLSearchParams({ topics: asked.join(',') });
  if (lastEventId !== '') query.set('lastEventId', lastEventId);
  source = new EventSource(`/api/stream?${query}`);
  source.addEventListener('hello', (event: MessageEvent<string>) => {
    heardAt = Date.now();
    streamId = (JSON.parse(event.data) as { streamId: string }).streamId;
    setOpen(true);
    void updateTopics();
  });
  source.addEventListener('snapshot', take(true));
  source.addEventListener('change', take(false));
  source.addEventListener('beat', (event: MessageEvent<string>) => {
    heardAt = Date.now();
    tell({ kind: 'beat', beat: JSON.parse(event.data) as Beat, at: heardAt });
  });
  source.addEventListener('error', () => {
    source?.close();
    source = null;
    setOpen(false);
    setTimeout(() => void retry(), RETRY_MS);
  });
}

async function retry(): Promise<void> {
  if (source || windows.size === 0) return;
  const answer = await fetch('/api/session').catch(() => null);
  if (answer?.status === 401) {
    tell({ kind: 'signed-out' });
    return;
  }
  if (answer?.ok) {
    csrf = ((await answer.json()) as { csrf: string }).csrf;
    connect();
  } else setTimeout(() => void retry(), RETRY_MS);
}

let updating = false;
/** Asks for the topics that the windows want now; what comes meanwhile is asked for afterwards. */
async function updateTopics(): Promise<void> {
  if (updating) return;
  updating = true;
  try {
    for (let next = wanted(); streamId !== null && next.join() !== asked.join(); next = wanted()) {
      const answer = await fetch(`/api/stream/${streamId}/topics`, {
        method: 'PUT',
        headers: { 'content-type': 'application/json', 'x-csrf-token': csrf },
        body: JSON.stringify({ topics: next }),
      });
      if (!answer.ok) {
        if (answer.status === 404) connect();
        return;
      }
      asked = next;
    }
  } catch {
    // The stream's own error brings it back.
  } finally {
    updating = false;
  }
}

setInterval(() => {
  if (open && Date.now() - heardAt > SILENT_MS) {
    setOpen(false);
    connect();
  }
}, 1000);

self.onconnect = (event) => {
  const port = event.ports[0];
  if (!port) return;
  const one: Window = { port, topics: new Set() };
  windows.add(one);
  port.onmessage = ({ data }: MessageEvent<ToStream>) => {
    if (data.kind === 'close') {
      windows.delete(one);
      void updateTopics();
      if (windows.size === 0) {
        source?.close();
        source = null;
        open = false;
      }
      return;
    }
    if (data.kind === 'share') {
      common[data.key] = data.value;
      for (const other of windows) if (other !== one) other.port.postMessage({ kind: 'shared', values: { [data.key]: data.value } } satisfies FromStream);
      return;
    }
    csrf = data.csrf;
    const fresh = data.topics.filter((topic) => !one.topics.has(topic));
    one.topics = new Set(data.topics);
    if (!source) connect();
    // A topic another window follows already has no snapshot to come: it is asked for anew.
    else if (fresh.some((topic) => asked.includes(topic))) {
      asked = asked.filter((topic) => !fresh.includes(topic));
      void renew(fresh);
    } else void updateTopics();
  };
  port.postMessage({ kind: 'status', open, since } satisfies FromStream);
  port.postMessage({ kind: 'shared', values: common } satisfies FromStream);
};

/** Leaves topics and takes them again, so that their snapshots come. */
async function renew(fresh: readonly string[]): Promise<void> {
  if (streamId === null) return;
  const without = wanted().filter((topic) => !fresh.includes(topic));
  await fetch(`/api/stream/${streamId}/topics`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json', 'x-csrf-token': csrf },
    body: JSON.stringify({ topics: without }),
  }).catch(() => null);
  asked = without;
  await updateTopics();
}
