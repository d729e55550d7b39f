import { $lamps } from './lamps.ts';
import { $settings, type Settings } from './settings.ts';
import { $alerts, $fills, $orders, $risk, firingsAfter, type ApiOrder, type ApiRisk } from '../live/index.ts';

export type SoundEvent = Settings['sounds'][number];

interface Tone {
  readonly hertz: number;
  readonly from: number;
  readonly seconds: number;
}

interface Sound {
  readonly wave: OscillatorType;
  readonly tones: readonly Tone[];
}

/** A tick for what went out, a rising fifth for what came in, a low step for what was refused, a fall and a rise for a link. */
const SOUNDS: Readonly<Record<SoundEvent, Sound>> = {
  sent: { wave: 'sine', tones: [{ hertz: 740, from: 0, seconds: 0.05 }] },
  trigger: { wave: 'triangle', tones: [{ hertz: 392, from: 0, seconds: 0.07 }, { hertz: 523, from: 0.07, seconds: 0.07 }, { hertz: 392, from: 0.14, seconds: 0.12 }] }, // prettier-ignore
  blocked: { wave: 'triangle', tones: [{ hertz: 165, from: 0, seconds: 0.3 }, { hertz: 165, from: 0.38, seconds: 0.3 }] }, // prettier-ignore
  fill: { wave: 'sine', tones: [{ hertz: 587, from: 0, seconds: 0.09 }, { hertz: 880, from: 0.08, seconds: 0.16 }] }, // prettier-ignore
  rejected: { wave: 'triangle', tones: [{ hertz: 220, from: 0, seconds: 0.12 }, { hertz: 196, from: 0.13, seconds: 0.22 }] }, // prettier-ignore
  'link lost': { wave: 'triangle', tones: [{ hertz: 494, from: 0, seconds: 0.14 }, { hertz: 330, from: 0.14, seconds: 0.14 }, { hertz: 220, from: 0.28, seconds: 0.3 }] }, // prettier-ignore
  'link back': { wave: 'sine', tones: [{ hertz: 330, from: 0, seconds: 0.1 }, { hertz: 494, from: 0.1, seconds: 0.18 }] }, // prettier-ignore
};

export const ALERT_SOUNDS = ['bell', 'drop', 'knock', 'rise', 'none'] as const;
export type AlertSound = (typeof ALERT_SOUNDS)[number];

/** What an alert can sound like; none is silent. */
const ALERTS: Readonly<Record<AlertSound, Sound>> = {
  bell: { wave: 'sine', tones: [{ hertz: 1046, from: 0, seconds: 0.5 }, { hertz: 1568, from: 0, seconds: 0.35 }] }, // prettier-ignore
  drop: { wave: 'sine', tones: [{ hertz: 880, from: 0, seconds: 0.08 }, { hertz: 660, from: 0.08, seconds: 0.08 }, { hertz: 440, from: 0.16, seconds: 0.2 }] }, // prettier-ignore
  knock: { wave: 'triangle', tones: [{ hertz: 180, from: 0, seconds: 0.06 }, { hertz: 180, from: 0.12, seconds: 0.06 }] }, // prettier-ignore
  rise: { wave: 'sine', tones: [{ hertz: 440, from: 0, seconds: 0.1 }, { hertz: 554, from: 0.09, seconds: 0.1 }, { hertz: 659, from: 0.18, seconds: 0.2 }] }, // prettier-ignore
  none: { wave: 'sine', tones: [] },
};

const SOFT_SECONDS = 0.012;
/** Several at once are one: a burst of fills rings no bell. */
const AGAIN_MS = 400;

let context: AudioContext | null = null;
const rungAt = new Map<SoundEvent, number>();

/** Plays the sound of an event. `volume` is 0 to 100. */
export const play = (event: SoundEvent, volume: number): void => sound(SOUNDS[event], volume);

/** Plays the sound that an alert was given. */
export const playAlert = (name: string, volume: number): void => sound(ALERTS[name as AlertSound] ?? ALERTS.bell, volume);

/** A sound, made from tones here and now. */
function sound({ wave, tones }: Sound, volume: number): void {
  if (volume <= 0) return;
  context ??= new AudioContext();
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

type Told = Pick<ApiOrder, 'id' | 'state' | 'heldBy' | 'plan' | 'triggeredAt'>;
/** Of each order: the last that was heard of it. */
export type HeardOrders = Map<string, SoundEvent | null>;

/** What news of an order sounds like; null where it says nothing new. */
export function orderSound({ id, state, heldBy, plan, triggeredAt }: Told, heard: HeardOrders): SoundEvent | null {
  const before = heard.get(id);
  // An order of a plan that is held here is made when it fires.
  const fired = triggeredAt !== null || (plan !== null && heldBy === 'here');
  const now: SoundEvent = state === 'rejected' ? 'rejected' : fired ? 'trigger' : 'sent';
  heard.set(id, now);
  return before === now ? null : now;
}

const blocksIn = (risk: Readonly<Record<string, ApiRisk>>): number => Object.values(risk).reduce((sum, { blocked }) => sum + blocked.length, 0);

/** Lets one of a user's windows be heard: the first of them, and when it goes the next. Call once. */
export function listenForSounds(): void {
  const ring = (event: SoundEvent): void => {
    if (rings(event, $settings.get(), performance.now())) play(event, $settings.get().volume);
  };
  const begin = (): void => {
    const heard: HeardOrders = new Map();
    for (const order of $orders.get().all.values()) orderSound(order, heard);
    let seen = $fills.get()[$fills.get().length - 1]?.seq ?? -1;
    let began = false;
    $fills.listen((fills) => {
      const newest = fills[fills.length - 1]?.seq ?? seen;
      if (newest > seen && began) ring('fill');
      seen = newest;
      began = true;
    });
    $orders.listen(({ changed, all }) => {
      // What was there before is known, not heard.
      if (!changed) for (const order of all.values()) orderSound(order, heard);
      const event = changed && orderSound(changed, heard);
      if (event) ring(event);
    });
    let blocks = blocksIn($risk.get());
    $risk.listen((risk) => {
      const now = blocksIn(risk);
      if (now > blocks) ring('blocked');
      blocks = now;
    });
    let told = firingsAfter($alerts.get(), -1)[0]?.seq ?? -1;
    let knew = $alerts.get() !== null;
    $alerts.listen((alerts) => {
      const [newest] = firingsAfter(alerts, told);
      told = newest?.seq ?? told;
      // What was told before this window looked is shown, not sounded.
      if (newest && knew) tellAlert(newest);
      knew = true;
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

/** Sounds an alert, and shows it over other windows where the trader allowed that. */
function tellAlert({ alert, text }: { readonly alert: { readonly sound: string | null; readonly name: string | null }; readonly text: string }): void {
  playAlert(alert.sound ?? 'bell', $settings.get().volume);
  if ('Notification' in window && Notification.permission === 'granted' && document.hidden) new Notification(alert.name ?? 'Kavix', { body: text });
}
