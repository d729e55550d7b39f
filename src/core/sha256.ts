const WORDS = Uint32Array.from(firstPrimes(64), (prime) => rootFraction(Math.cbrt(prime)));
const START = Uint32Array.from(firstPrimes(8), (prime) => rootFraction(Math.sqrt(prime)));

function firstPrimes(count: number): number[] {
  const found: number[] = [];
  for (let n = 2; found.length < count; n++) if (found.every((prime) => n % prime !== 0)) found.push(n);
  return found;
}

/** The first 32 bits behind the point. */
function rootFraction(root: number): number {
  return Math.floor((root % 1) * 2 ** 32);
}

const turned = (word: number, by: number): number => (word >>> by) | (word << (32 - by));

/** SHA-256 of a text in UTF-8, as 64 hexadecimal digits (FIPS 180-4, section 6.2). */
export function sha256(text: string): string {
  const bytes = new TextEncoder().encode(text);
  const blocks = Math.ceil((bytes.length + 9) / 64);
  const padded = new Uint8Array(blocks * 64);
  padded.set(bytes);
  padded[bytes.length] = 0x80;
  const view = new DataView(padded.buffer);
  view.setBigUint64(padded.length - 8, BigInt(bytes.length) * 8n);
  const hash = Uint32Array.from(START);
  const w = new Uint32Array(64);
  const at = (words: Uint32Array, i: number): number => words[i] ?? 0;
  for (let block = 0; block < blocks; block++) {
    for (let i = 0; i < 16; i++) w[i] = view.getUint32(block * 64 + i * 4);
    for (let i = 16; i < 64; i++) {
      const [early, late] = [at(w, i - 15), at(w, i - 2)];
      const low = turned(early, 7) ^ turned(early, 18) ^ (early >>> 3);
      const high = turned(late, 17) ^ turned(late, 19) ^ (late >>> 10);
      w[i] = at(w, i - 16) + low + at(w, i - 7) + high;
    }
    let [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0, g = 0, h = 0] = hash;
    for (let i = 0; i < 64; i++) {
      const first = (h + (turned(e, 6) ^ turned(e, 11) ^ turned(e, 25)) + ((e & f) ^ (~e & g)) + at(WORDS, i) + at(w, i)) | 0;
      const second = ((turned(a, 2) ^ turned(a, 13) ^ turned(a, 22)) + ((a & b) ^ (a & c) ^ (b & c))) | 0;
      [h, g, f, e, d, c, b, a] = [g, f, e, (d + first) | 0, c, b, a, (first + second) | 0];
    }
    for (const [i, word] of [a, b, c, d, e, f, g, h].entries()) hash[i] = at(hash, i) + word;
  }
  return [...hash].map((word) => word.toString(16).padStart(8, '0')).join('');
}
