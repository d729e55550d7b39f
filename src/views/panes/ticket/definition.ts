import { definePane } from '../definition.ts';

export const ticketPane = definePane('a standing form for one order', 'orders', {}, () => import('./TicketPane.tsx'));
