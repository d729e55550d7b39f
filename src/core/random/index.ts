/** Chance as an argument: numbers that follow from keys alone, so that a world can be made again from its seed. */

/** Mixes integers into one 32-bit hash (the finaliser of MurmurHash3, Appleby 2011). */
export function hash(...keys: readonly number[]): number {
  let h = 0x9e3779b9;
  for (const key of keys) {
    h ^= key | 0;
    h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
    h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
    h ^= h >>> 16;
    h = (h + 0x6d2b79f5) | 0;
  }
  return h >>> 0;
}

/** A 32-bit hash of a text, to be used as a key (FNV-1a). */
export function textKey(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return h >>> 0;
}

/** A stream of numbers from one key. */
export class Chance {
  private state: number;

  constructor(...keys: readonly number[]) {
    this.state = hash(...keys);
  }

  /** Uniform in [0, 1), 32 bits (mulberry32, Ettinger 2017). */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }

  /** Standard normal (Box and Muller 1958). */
  normal(): number {
    return Math.sqrt(-2 * Math.log(1 - this.next())) * Math.cos(2 * Math.PI * this.next());
  }

  /** An integer in [0, n). */
  below(n: number): number {
    return Math.floor(this.next() * n);
  }

  pick<T>(from: readonly T[]): T {
    return from[this.below(from.length)] as T;
  }
}
