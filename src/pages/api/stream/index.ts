import { randomUUID } from 'node:crypto';
import type { Connection } from '../../../desk/hub.ts';
import { isoTime } from '../../../desk/present/index.ts';
import { endpoint } from '../_endpoint.ts';
import { invalid } from '../_problem.ts';
import { unknownTopics } from './_topics.ts';

/** A reader with this many writes not taken is behind: market data waits for it, newest state only. */
const BEHIND = 16;
/** One that is this far behind, with account events alone, is cut off: it comes back and asks for what it missed. */
const MOST_BEHIND = 4000;

export const ALL = endpoint('/api/stream', {
  GET: (call) => {
    const topics = String(call.query['topics'] ?? '')
      .split(',')
      .filter(Boolean);
    const unknown = unknownTopics(call, topics);
    if (unknown.length > 0) return invalid(unknown.map((topic) => ({ path: '?topics', message: `${topic} is not a topic you can follow` })));
    const lastEventId = Number(call.context.request.headers.get('last-event-id') ?? call.query['lastEventId'] ?? NaN);
    const { hub } = call.desk.feed;
    const encoder = new TextEncoder();
    let connection: Connection | null = null;
    const end = (): void => {
      if (connection) hub.close(connection);
      connection = null;
    };
    const body = new ReadableStream<Uint8Array>({
      start(controller) {
        const stop = (): void => {
          if (!connection) return;
          end();
          controller.close();
        };
        const reader = {
          id: randomUUID(),
          user: call.user,
          accounts: call.accounts,
          send: (text: string): void => {
            if ((controller.desiredSize ?? 0) < -MOST_BEHIND) stop();
            else controller.enqueue(encoder.encode(text));
          },
          behind: () => (controller.desiredSize ?? 0) < -BEHIND,
          end: stop,
          credential: call.context.locals.credential ?? { id: '', until: null },
        };
        connection = hub.open(reader, isoTime(call.desk.now()));
        const fresh = hub.setTopics(connection, topics);
        const resumed = Number.isFinite(lastEventId) && hub.resume(connection, lastEventId);
        if (Number.isFinite(lastEventId) && !resumed) for (const topic of fresh) hub.reset(connection, topic);
        for (const topic of fresh) if (connection) void call.desk.feed.snapshot(connection, topic);
      },
      cancel: end,
    });
    return new Response(body, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' } });
  },
});
