import { endpoint, json } from '../../_endpoint.ts';
import { invalid, notFound } from '../../_problem.ts';
import { unknownTopics } from '../_topics.ts';

export const ALL = endpoint('/api/stream/{id}/topics', {
  PUT: (call) => {
    const { hub } = call.desk.feed;
    const connection = hub.find(call.parameter('id'));
    if (!connection || connection.accounts.join() !== call.accounts.join()) return notFound();
    const { topics, anew = [] } = call.body as { topics: string[]; anew?: string[] };
    const unknown = unknownTopics(call, topics);
    if (unknown.length > 0)
      return invalid(unknown.map((topic) => ({ path: `/topics/${topics.indexOf(topic)}`, message: `${topic} is not a topic you can follow` })));
    const fresh = hub.setTopics(connection, topics);
    for (const topic of new Set([...fresh, ...anew.filter((one) => connection.topics.has(one))])) void call.desk.feed.snapshot(connection, topic);
    return json(200, { topics: [...connection.topics] });
  },
});
