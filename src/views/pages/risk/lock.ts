const DAY_MS = 86_400_000;

/** For how many days one locks, as it is offered. */
export const LOCK_DAYS = [1, 5, 10, 20, 60] as const;

/** So many days from a market time on. */
export const lockUntil = (now: string, days: number): string => new Date(Date.parse(now) + days * DAY_MS).toISOString();
