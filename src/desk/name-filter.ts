import { hash, textKey } from '../core/random/index.ts';

const BITS = 2 ** 23;
const PROBES = 4;

/**
 * Tells of most names that they were never used, without asking the store (Bloom, Space/time trade-offs in hash
 * coding with allowable errors, 1970): one MiB, and wrong about one unused name in a hundred at 500,000 used ones.
 */
export class NameFilter {
  private readonly bits = new Uint8Array(BITS / 8);

  add(name: string): void {
    for (const bit of this.places(name)) this.bits[bit >> 3] = (this.bits[bit >> 3] ?? 0) | (1 << (bit & 7));
  }

  /** False where the name was certainly never added. */
  maybeHas(name: string): boolean {
    return this.places(name).every((bit) => ((this.bits[bit >> 3] ?? 0) & (1 << (bit & 7))) !== 0);
  }

  private places(name: string): number[] {
    const key = textKey(name);
    return Array.from({ length: PROBES }, (_, probe) => hash(key, name.length, probe) % BITS);
  }
}
