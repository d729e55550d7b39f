import { PriceLevels } from '../core/market/index.ts';
import type { Order } from '../core/orders/index.ts';

const NONE: ReadonlySet<string> = new Set();

/** A position that ends with its instrument, among what ends by itself. */
export interface EndingPosition {
  readonly account: string;
  readonly instrument: string;
}

type Ending = string | EndingPosition;

/** Where the broker finds working orders again, by what can happen to them; groups also by orders that are done. */
export class OrderIndex {
  private readonly byInstrument = new Map<string, Set<string>>();
  private readonly reducing = new Map<string, Set<string>>();
  private readonly following = new Map<string, Set<string>>();
  private readonly groups = new Map<string, Set<string>>();
  private readonly ends = new PriceLevels<Set<string>, number>(-1);

  /** @param endsAt when it ends by itself; null where it does not */
  add({ id, account, instrument, reduceOnly, terms }: Order, endsAt: number | null): void {
    put(this.byInstrument, instrument, id);
    if (reduceOnly) put(this.reducing, `${account} ${instrument}`, id);
    if (terms.type === 'following') put(this.following, instrument, id);
    if (endsAt !== null) this.endAt(endsAt, id);
  }

  /** @param endsAt as it was added with */
  remove({ id, account, instrument }: Order, endsAt: number | null): void {
    this.byInstrument.get(instrument)?.delete(id);
    this.reducing.get(`${account} ${instrument}`)?.delete(id);
    this.following.get(instrument)?.delete(id);
    const there = endsAt === null ? undefined : this.ends.get(endsAt);
    there?.delete(id);
    if (endsAt !== null && there?.size === 0) this.ends.delete(endsAt);
  }

  in(instrument: string): ReadonlySet<string> {
    return this.byInstrument.get(instrument) ?? NONE;
  }

  /** Instruments in which an order works. */
  *instruments(): Generator<string> {
    for (const [instrument, ids] of this.byInstrument) if (ids.size > 0) yield instrument;
  }

  /** What a smaller position cuts, as it is now. */
  reducingIn(account: string, instrument: string): string[] {
    return [...(this.reducing.get(`${account} ${instrument}`) ?? [])];
  }

  /** Those whose limit follows the best opposite price, as they are now. */
  followingIn(instrument: string): string[] {
    return [...(this.following.get(instrument) ?? [])];
  }

  join(group: string, id: string): void {
    put(this.groups, group, id);
  }

  leave(group: string, id: string): void {
    this.groups.get(group)?.delete(id);
  }

  ofGroup(group: string): readonly string[] {
    return [...(this.groups.get(group) ?? [])];
  }

  /** A position ends then, whatever it is by then. */
  watch({ account, instrument }: EndingPosition, time: number): void {
    this.endAt(time, `${account}\n${instrument}`);
  }

  /** When the next order or position ends by itself. */
  nextEnd(): number | null {
    return this.ends.best();
  }

  /** Takes what ends first, if that is by now: orders by their ids, positions. */
  takeEnding(time: number): Ending[] | null {
    const at = this.ends.best();
    if (at === null || at > time) return null;
    const due = [...(this.ends.get(at) ?? [])];
    this.ends.delete(at);
    return due.map((key) => {
      const [account = '', instrument] = key.split('\n');
      return instrument === undefined ? key : { account, instrument };
    });
  }

  private endAt(time: number, key: string): void {
    const there = this.ends.get(time);
    if (there) there.add(key);
    else this.ends.set(time, new Set([key]));
  }
}

function put(sets: Map<string, Set<string>>, key: string, id: string): void {
  const found = sets.get(key);
  if (found) found.add(id);
  else sets.set(key, new Set([id]));
}
