import { parseTopic } from '../../../desk/hub.ts';
import type { Call } from '../_endpoint.ts';

/** Those of the topics that do not exist, or are another user's. */
export function unknownTopics(call: Call, topics: readonly string[]): string[] {
  return topics.filter((name) => {
    const topic = parseTopic(name);
    if (!topic) return true;
    if ('instrument' in topic) return !call.desk.market.find(topic.instrument);
    return 'account' in topic && topic.account !== null && !call.accounts.includes(topic.account);
  });
}
