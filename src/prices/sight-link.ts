import type { FromVenue, LookRequest, MarketLook, ToVenue } from '../venue/messages.ts';
import type { MarketSight } from './finder.ts';

/** Looks at the market over messages to wherever the venue's loop runs. */
export class SightLink implements MarketSight {
  private readonly waiting = new Map<number, { resolve: (look: MarketLook) => void; reject: (error: Error) => void }>();
  private asked = 0;
  private readonly post: (message: ToVenue) => void;

  constructor(post: (message: ToVenue) => void) {
    this.post = post;
  }

  look(ask: LookRequest): Promise<MarketLook> {
    const id = ++this.asked;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      this.post({ call: 'look', id, ask });
    });
  }

  receive(message: FromVenue): void {
    if (message.kind !== 'answer' && message.kind !== 'failed') return;
    const waits = this.waiting.get(message.id);
    this.waiting.delete(message.id);
    if (message.kind === 'answer') waits?.resolve(message.answer as MarketLook);
    else waits?.reject(new Error(message.message));
  }
}
