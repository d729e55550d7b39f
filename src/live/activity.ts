import { atom, onMount } from 'nanostores';
import type { ApiActivity } from './shapes.ts';
import { follow } from './stream.ts';

/** Entries that a window keeps while somebody looks. */
const MOST = 2000;

/** What was asked, answered, triggered and changed, oldest first. */
export const $activity = atom<readonly ApiActivity[]>([]);

onMount($activity, () =>
  follow<ApiActivity | ApiActivity[]>('activity', (data, snapshot) => {
    const more = Array.isArray(data) ? data : [data];
    if (snapshot) return $activity.set(more);
    const newest = $activity.get().at(-1)?.seq ?? 0;
    $activity.set([...$activity.get(), ...more.filter(({ seq }) => seq > newest)].slice(-MOST));
  }),
);
