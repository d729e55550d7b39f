import type { Order, OrderGroup } from '../../core/orders/index.ts';
import { json, type Call } from './_endpoint.ts';
import { presentOrders } from './_order.ts';

/** A group with its orders as they are now. */
export const groupAnswer = async (call: Call, status: number, { id, onPartialFill }: OrderGroup, orders: readonly Order[]): Promise<Response> =>
  json(status, { id, kind: 'oco', onPartialFill, orders: await presentOrders(call, orders) }, status === 201 ? { location: `/api/order-groups/${id}` } : {});
