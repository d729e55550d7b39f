import { asQuantity, NO_QUANTITY, type Quantity } from '../core/instrument/index.ts';
import { isFinished, remainingQuantity, type OrderGroup } from '../core/orders/index.ts';
import type { HeldOrder } from './held.ts';

/** The orders of the broker that groups are made of, and how one of them is let have less or more. */
export interface GroupMembers {
  /** All that are known of a group, done ones too. */
  ofGroup(group: string): readonly HeldOrder[];
  /** Lets a member have this much left; nothing cancels it. */
  leave(held: HeldOrder, remaining: Quantity): void;
}

/** Groups of orders of which one's fill takes from the others: one cancels the other. */
export class OrderGroups {
  private readonly members: GroupMembers;

  constructor(members: GroupMembers) {
    this.members = members;
  }

  /** What a group that is known here has left for one that joins it; null where it is new. */
  leftIn(group: OrderGroup): Quantity | null {
    const members = this.members.ofGroup(group.id);
    if (members.length === 0) return null;
    const working = members.filter(({ order }) => !isFinished(order));
    if (working.length > 0) return asQuantity(Math.min(...working.map(({ order }) => remainingQuantity(order))));
    // All were cancelled: nothing was taken from what one of them was for.
    return members.some(({ order }) => order.ended === null && order.acknowledged !== 'rejected') ? NO_QUANTITY : null;
  }

  /** What a fill of one does to the others of its group. */
  filled(held: HeldOrder, quantity: Quantity): void {
    for (const other of this.others(held)) {
      const left = held.order.group?.onPartialFill === 'cancel' ? 0 : remainingQuantity(other.order) - quantity;
      this.members.leave(other, asQuantity(left));
    }
  }

  /** A change of one member's quantity is one of all. */
  evenOut(held: HeldOrder): void {
    const remaining = remainingQuantity(held.order);
    for (const other of this.others(held)) if (remainingQuantity(other.order) !== remaining) this.members.leave(other, remaining);
  }

  /** The others of a group that still work. */
  private others({ order }: HeldOrder): HeldOrder[] {
    if (!order.group) return [];
    return this.members.ofGroup(order.group.id).filter((other) => other.order.id !== order.id && !isFinished(other.order));
  }
}

/** Why working orders can't be made a group any more, in words; null where they can. */
export function whyNotAGroup(asked: number, members: readonly HeldOrder[]): string | null {
  const first = members[0];
  if (!first || members.length < asked || members.some(({ order }) => isFinished(order))) return 'One of the orders is done.';
  if (members.some(({ order }) => order.group !== null)) return 'One of the orders is in a group already.';
  if (members.some(({ order }) => remainingQuantity(order) !== remainingQuantity(first.order))) return 'The orders no longer have the same remaining quantity.';
  return null;
}
