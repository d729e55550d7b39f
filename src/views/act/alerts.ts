import { answer } from '../../client/answers.ts';
import { problemWords, request } from '../../live/index.ts';

/** Makes a price alert; what becomes of it is said in the pane that asked. */
export async function alertAt(pane: string, instrument: string, price: string): Promise<void> {
  const done = await request('POST /api/alerts', { body: { kind: 'price', instrument, price, direction: 'either', fires: 'once', sound: 'bell' } });
  if (done.ok) answer(pane, 'done', `tells when ${instrument} reaches ${price}`);
  else answer(pane, 'refused', problemWords(done.problem));
}
