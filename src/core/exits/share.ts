import { asQuantity, type Quantity } from '../instrument/index.ts';

/** A quantity by shares: each takes its part, down to the step, and the last takes the rest (exact rules *Exits* 4 and 5). */
export function shareOut(quantity: Quantity, shares: readonly bigint[]): Quantity[] {
  const sum = shares.reduce((total, share) => total + share, 0n);
  let rest: number = quantity;
  return shares.map((share, i) => {
    const part = i === shares.length - 1 ? rest : Number((BigInt(quantity) * share) / sum);
    rest -= part;
    return asQuantity(part);
  });
}

/** Quantities cut to a total, from the last one back. */
export function cutFromLast(quantities: readonly Quantity[], total: Quantity): Quantity[] {
  let left: number = total;
  return quantities.map((quantity) => {
    const kept = Math.min(quantity, left);
    left -= kept;
    return asQuantity(kept);
  });
}
