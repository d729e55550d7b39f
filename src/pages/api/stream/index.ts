import { randomUUID } from 'node:crypto';
import type { Connection } from '../../../desk/hub.ts';
import { isoTime } from '../../../desk/present/index.ts';
import { endpoint } from '../_endpoint.ts';
import { invalid } from '../_problem.ts';
import { unknownTopics } from './_topics.ts';

/** A reader that is this many writes behind is cut off: it comes back and asks for what it missed. */
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
        connection = hub.open(
          randomUUID(),
          call.accounts,
          (text) => {
            if ((controller.desiredSize ?? 0) < -MOST_BEHIND) {
              end();
              controller.close();
            } else controller.enqueue(encoder.encode(text));
          },
          isoTime(call.desk.now()),
        );
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
