import { computed, atom, onMount } from 'nanostores';
import { $beat, $link, $screen } from '../../live/index.ts';

export type LampState = 'up' | 'late' | 'down';
const LATE_MS = 2000;
const DOWN_MS = 5000;

export interface Lamp {
  readonly state: LampState;
  /** Seconds since the last message, by the machine's clock; null before any. */
  readonly age: number | null;
}

const lampOf = (heardAt: number | null, closed: boolean, now: number): Lamp => {
  const age = heardAt === null ? null : Math.max(0, now - heardAt);
  const state = closed || age === null || age >= DOWN_MS ? 'down' : age >= LATE_MS ? 'late' : 'up';
  return { state, age: age === null ? null : Math.floor(age / 1000) };
};

/** The three links as they are at a machine time. */
export function lamps(now: number): { screen: Lamp; data: Lamp; broker: Lamp } {
  const screen = $screen.get();
  const beat = $beat.get();
  const link = $link.get();
  const heard = (at: string | undefined): number | null => (at === undefined ? null : Date.parse(at));
  return {
    screen: lampOf(screen.heardAt === 0 ? null : screen.heardAt, !screen.open, now),
    data: lampOf(heard(beat?.venues['HALM']), link?.data === 'down', now),
    broker: lampOf(heard(beat?.broker), link?.broker === 'down', now),
  };
}

/** Whether quotes are live: neither the screen nor the data is late. */
export function quotesFresh(now = Date.now()): boolean {
  const { screen, data } = lamps(now);
  return screen.state === 'up' && data.state === 'up';
}

const LOOK_MS = 250;

/** The lamps' state, looked at four times a second while anybody shows it. */
export const $lamps = atom(lamps(0));
onMount($lamps, () => {
  const look = (): void => $lamps.set(lamps(Date.now()));
  look();
  const timer = setInterval(look, LOOK_MS);
  return () => clearInterval(timer);
});
export const $quotesFresh = computed($lamps, ({ screen, data }) => screen.state === 'up' && data.state === 'up');
export const screenUp = (now = Date.now()): boolean => lamps(now).screen.state !== 'down';
