import { atom } from 'nanostores';
import { request, type AnswerOf } from '../live/index.ts';

export type Bindings = AnswerOf<'GET /api/bindings'>;
export type BoundKey = Bindings['items'][number];

const NONE: Bindings = { items: [], version: 1 };
const CHANNEL = 'kavix-bindings';

/** The keys that the trader bound: known at sign-in, and in force in every window the moment they are saved. */
export const $bindings = atom<Bindings>(NONE);

const channel = typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel(CHANNEL);

/** Reads them once, and follows what other windows save. Call once. */
export async function loadBindings(): Promise<void> {
  channel?.addEventListener('message', ({ data }: MessageEvent<Bindings>) => $bindings.set(data));
  const found = await request('GET /api/bindings');
  if (found.ok) $bindings.set(found.value);
}

/** Saves all keys; what can't be is answered, and nothing changes. */
export async function saveBindings(items: readonly BoundKey[]) {
  const done = await request('PUT /api/bindings', { body: { items, version: $bindings.get().version } });
  if (done.ok) {
    $bindings.set(done.value);
    channel?.postMessage(done.value);
  }
  return done;
}

/** The chord by which the router knows a bound key: `Space` in front means the order layer's. */
export function boundChord(key: string): { readonly layer: boolean; readonly chord: string } {
  const parts = key.split(' ');
  const layer = parts[0] === 'Space' && parts.length > 1;
  const rest = layer ? parts.slice(1) : parts;
  const at = rest.indexOf('Numpad');
  const base = at >= 0 ? rest.slice(at).join(' ') : (rest[rest.length - 1] ?? '');
  const held = rest.slice(0, at >= 0 ? at : -1);
  const plain = base.length === 1 && held.every((one) => one === 'Shift');
  return { layer, chord: [...held.map((one) => `${one}+`), plain ? base.toLowerCase() : base].join('') };
}

/** Whether a key is in force in a workspace: those of no set are in all. */
export const isInForce = ({ sets }: BoundKey, workspace: string): boolean => sets.length === 0 || sets.includes(workspace);
