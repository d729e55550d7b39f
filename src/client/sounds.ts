import { $lamps } from './lamps.ts';
import { $settings, type Settings } from './settings.ts';
import { $fills, $orders } from '../live/index.ts';

export type SoundEvent = Settings['sounds'][number];

interface Tone {
  readonly hertz: number;
  readonly from: number;
  readonly seconds: number;
}

/** A rising fifth for what came in, a low step for what was refused, a fall and a rise for a link. */
const SOUNDS: Readonly<Record<SoundEvent, { readonly wave: OscillatorType; readonly tones: readonly Tone[] }>> = {
  fill: { wave: 'sine', tones: [{ hertz: 587, from: 0, seconds: 0.09 }, { hertz: 880, from: 0.08, seconds: 0.16 }] }, // prettier-ignore
  rejected: { wave: 'triangle', tones: [{ hertz: 220, from: 0, seconds: 0.12 }, { hertz: 196, from: 0.13, seconds: 0.22 }] }, // prettier-ignore
  'link lost': { wave: 'triangle', tones: [{ hertz: 494, from: 0, seconds: 0.14 }, { hertz: 330, from: 0.14, seconds: 0.14 }, { hertz: 220, from: 0.28, seconds: 0.3 }] }, // prettier-ignore
  'link back': { wave: 'sine', tones: [{ hertz: 330, from: 0, seconds: 0.1 }, { hertz: 494, from: 0.1, seconds: 0.18 }] }, // prettier-ignore
};

const SOFT_SECONDS = 0.012;
/** Several at once are one: a burst of fills rings no bell. */
const AGAIN_MS = 400;

let context: AudioContext | null = null;
const rungAt = new Map<SoundEvent, number>();

/** Plays a sound, made from tones here and now. `volume` is 0 to 100. */
export function play(event: SoundEvent, volume: number): void {
  if (volume <= 0) return;
  context ??= new AudioContext();
  const { wave, tones } = SOUNDS[event];
  for (const { hertz, from, seconds } of tones) {
    const begins = context.currentTime + from;
    const voice = context.createOscillator();
    const level = context.createGain();
    voice.type = wave;
    voice.frequency.value = hertz;
    level.gain.setValueAtTime(0, begins);
    level.gain.linearRampToValueAtTime((volume / 100) * 0.4, begins + SOFT_SECONDS);
    level.gain.exponentialRampToValueAtTime(0.001, begins + seconds);
    voice.connect(level).connect(context.destination);
    voice.start(begins);
    voice.stop(begins + seconds);
  }
}

/** Whether an event is heard now: chosen, and not right after another of its kind. */
export function rings(event: SoundEvent, { sounds, volume }: Pick<Settings, 'sounds' | 'volume'>, now: number): boolean {
  if (volume === 0 || !sounds.includes(event) || now - (rungAt.get(event) ?? -Infinity) < AGAIN_MS) return false;
  rungAt.set(event, now);
  return true;
}

/** Lets one of a user's windows be heard: the first of them, and when it goes the next. Call once. */
export function listenForSounds(): void {
  const ring = (event: SoundEvent): void => {
    if (rings(event, $settings.get(), performance.now())) play(event, $settings.get().volume);
  };
  const begin = (): void => {
    let seen = $fills.get()[$fills.get().length - 1]?.seq ?? -1;
    let began = false;
    $fills.listen((fills) => {
      const newest = fills[fills.length - 1]?.seq ?? seen;
      if (newest > seen && began) ring('fill');
      seen = newest;
      began = true;
    });
    $orders.listen(({ changed }) => {
      if (changed?.state === 'rejected') ring('rejected');
    });
    let up = true;
    $lamps.listen(({ screen, data, broker }) => {
      const now = [screen, data, broker].every(({ state }) => state !== 'down');
      if (now !== up) ring(now ? 'link back' : 'link lost');
      up = now;
    });
  };
  void navigator.locks.request('kavix-sounds', () => {
    begin();
    return new Promise(() => undefined);
  });
}
