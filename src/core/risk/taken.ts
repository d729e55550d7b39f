const MINUTE_MS = 60_000;
const AT_ONCE = 64;

/** When opening orders were taken, rising; the latest stand apart, so that one more does not copy a minute of a busy day. */
export interface Taken {
  readonly earlier: readonly number[];
  readonly latest: readonly number[];
}

export const NONE_TAKEN: Taken = { earlier: [], latest: [] };

const since = (times: readonly number[], from: number): readonly number[] => ((times[0] ?? Infinity) > from ? times : times.filter((at) => at > from));

/** One more, at a time not before the others. What no minute holds any more is left out. */
export function withOneTaken({ earlier, latest }: Taken, time: number): Taken {
  if (latest.length < AT_ONCE) return { earlier, latest: [...latest, time] };
  return { earlier: since([...earlier, ...latest], time - MINUTE_MS), latest: [time] };
}

/** How many were taken in the minute up to a time: in (time − 60 s, time]. */
export const countTaken = ({ earlier, latest }: Taken, time: number): number =>
  since(earlier, time - MINUTE_MS).length + since(latest, time - MINUTE_MS).length;
