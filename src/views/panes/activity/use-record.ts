import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import { beginsAt, joined, readBack, type Span } from '../../../client/activity-record.ts';
import { $activity, $clock, type ApiActivity } from '../../../live/index.ts';

interface Shown {
  readonly entries: readonly ApiActivity[];
  readonly state: 'whole' | 'reading' | 'cut';
}

/** The record of a span: what the window has, and before that what is read back for it. */
export function useRecord(span: Span): Shown {
  const window = useStore($activity);
  const [back, setBack] = useState<{ since: number; entries: readonly ApiActivity[]; state: Shown['state'] } | null>(null);
  useEffect(() => {
    const since = beginsAt(span, Date.parse($clock.get()?.time ?? ''));
    if (since === null || Number.isNaN(since)) {
      setBack(null);
      return;
    }
    let here = true;
    const known = $activity.get();
    setBack({ since, entries: known, state: 'reading' });
    void readBack(known[0]?.seq ?? Number.MAX_SAFE_INTEGER, since, () => here).then(({ entries, more }) => {
      if (here) setBack((now) => now && { since, entries: [...entries, ...now.entries], state: more ? 'cut' : 'whole' });
    });
    return () => {
      here = false;
    };
  }, [span]);
  // What the window lets go of stays here as long as it is looked at.
  useEffect(() => setBack((now) => now && { ...now, entries: joined(now.entries, window) }), [window]);
  if (!back) return { entries: window, state: 'whole' };
  return { entries: back.entries.filter(({ time }) => Date.parse(time) >= back.since), state: back.state };
}
