import type { Order } from '../orders/index.ts';

const CLOSE_OUT = 'kavix.close-out.';
/** The name of an order by which a position is closed out. */
export const closeOutName = (number: number): string => `${CLOSE_OUT}${number}`;
export const isCloseOut = ({ clientOrderId }: Order): boolean => clientOrderId.startsWith(CLOSE_OUT);
