import { atom, computed, onMount } from 'nanostores';
import { $beat, $link, $screen } from '../live/index.ts';

export type LampState = 'up' | 'late' | 'down';
const LATE_MS = 2000;
const DOWN_MS = 5000;

export interface Lamp {
  readonly state: LampState;
  /** Seconds since the last message; null before any. */
  readonly age: number | null;
}

const lampOf = (age: number | null, closed: boolean): Lamp => {
  const state = closed || age === null || age >= DOWN_MS ? 'down' : age >= LATE_MS ? 'late' : 'up';
  return { state, age: age === null ? null : Math.floor(Math.max(0, age) / 1000) };
};

/**
 * The three links as they are at a time of this machine; of the venues that one counts which was not heard for longest.
 * How long ago the server heard each is told with each beat, and only the time since that beat is this machine's: so a
 * wrong clock on either side changes nothing.
 */
export function lamps(now: number): { screen: Lamp; data: Lamp; broker: Lamp } {
  const screen = $screen.get();
  const beat = $beat.get();
  const link = $link.get();
  const age = (heard: string | undefined): number | null =>
    beat === null || heard === undefined ? null : Date.parse(beat.now) - Date.parse(heard) + (now - beat.at);
  const longestUnheard = Object.values(beat?.venues ?? {}).sort()[0];
  return {
    screen: lampOf(screen.heardAt === 0 ? null : now - screen.heardAt, !screen.open),
    data: lampOf(age(longestUnheard), link?.data === 'down'),
    broker: lampOf(age(beat?.broker), link?.broker === 'down'),
  };
}

const LOOK_MS = 250;
const LAMPS = ['screen', 'data', 'broker'] as const;

/** The lamps' state, looked at four times a second while anybody shows it. */
export const $lamps = atom(lamps(0));
onMount($lamps, () => {
  const look = (): void => {
    const next = lamps(Date.now());
    const shown = $lamps.get();
    // What shows the lamps is drawn anew only where one of them has changed.
    if (LAMPS.some((name) => next[name].state !== shown[name].state || next[name].age !== shown[name].age)) $lamps.set(next);
  };
  look();
  const timer = setInterval(look, LOOK_MS);
  return () => clearInterval(timer);
});

/** Whether quotes are live: neither the screen nor the data is late. */
export const quotesFresh = (now = Date.now()): boolean => isFresh(lamps(now));
export const $quotesFresh = computed($lamps, (state) => isFresh(state));
const isFresh = ({ screen, data }: ReturnType<typeof lamps>): boolean => screen.state === 'up' && data.state === 'up';

export const screenUp = (now = Date.now()): boolean => lamps(now).screen.state !== 'down';
