import { atom } from 'nanostores';
import type { ApiNews } from './shapes.ts';
import { follow } from './stream.ts';

const KEPT = 400;

/** Headlines this window knows, oldest first; filled while somebody follows them. */
export const $news = atom<readonly ApiNews[]>([]);

let followers = 0;
let stop: () => void = () => undefined;

/** Keeps {@link $news} up to date until the answer is called. */
export function followHeadlines(): () => void {
  if (followers++ === 0)
    stop = follow<readonly ApiNews[] | null>('news', (data) => {
      const known = $news.get();
      const newest = known[known.length - 1]?.seq ?? -1;
      const fresh = (data ?? []).filter(({ seq }) => seq > newest);
      if (fresh.length > 0) $news.set([...known, ...fresh].slice(-KEPT));
    });
  return () => {
    if (--followers === 0) stop();
  };
}
