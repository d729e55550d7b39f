import { signedFixed } from '../../../core/number/index.ts';
import type { AnswerOf } from '../../../live/index.ts';

type Trip = Pick<AnswerOf<'GET /api/review/round-trips'>['items'][number], 'openedAt' | 'closedAt' | 'netEur'>;

/** What the day had come to when a round trip began: of those that were over by then. Net in EUR. */
export function dayUntil(trips: readonly Trip[], openedAt: string): { net: number; count: number; lostInRow: number } {
  const over = trips.filter((one) => one.closedAt <= openedAt && one.openedAt < openedAt).sort((a, b) => (a.closedAt < b.closedAt ? -1 : 1));
  const results = over.map(({ netEur }) => Number(netEur));
  const lastWon = results.findLastIndex((net) => net >= 0);
  return { net: results.reduce((sum, net) => sum + net, 0), count: over.length, lostInRow: over.length - 1 - lastWon };
}

/** The same in a sentence. */
export function dayWords({ net, count, lostInRow }: ReturnType<typeof dayUntil>): string {
  if (count === 0) return 'It was the first round trip of its day.';
  const lost = lostInRow === 0 ? 'the last one won' : lostInRow === 1 ? 'the last one lost' : `the last ${lostInRow} lost`;
  return `When it began: ${signedFixed(net)} EUR that day after ${count} round trip${count === 1 ? '' : 's'}, ${lost}.`;
}
