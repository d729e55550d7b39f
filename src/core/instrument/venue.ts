import type { InstrumentKind } from './kind.ts';

export const VENUE_IDS = ['HALM', 'QUAY', 'VSPR'] as const;
export type VenueId = (typeof VENUE_IDS)[number];

export const ORDER_TYPES = ['market', 'limit', 'stop', 'stop-limit', 'trailing-stop'] as const;
export type OrderType = (typeof ORDER_TYPES)[number];

/** Trading hours as `HH:MM` in exchange time; null where a venue trades round the clock. */
export interface Session {
  readonly preOpen: string | null;
  readonly open: string;
  readonly close: string;
}

export interface Venue {
  readonly id: VenueId;
  readonly name: string;
  /** IANA zone of the exchange time, which trading days and hours are told in. */
  readonly zone: string;
  readonly session: Session | null;
  /** Round-the-clock venues trade on every day of the week. */
  readonly weekends: boolean;
  readonly orderTypes: readonly OrderType[];
}

export const VENUES: Readonly<Record<VenueId, Venue>> = {
  HALM: {
    id: 'HALM',
    name: 'Halm Exchange',
    zone: 'Atlantic/Faroe',
    session: { preOpen: '08:30', open: '09:00', close: '17:30' },
    weekends: false,
    orderTypes: ORDER_TYPES,
  },
  QUAY: {
    id: 'QUAY',
    name: 'Quay Market',
    zone: 'Atlantic/Faroe',
    session: { preOpen: null, open: '09:00', close: '17:30' },
    weekends: false,
    orderTypes: ['market', 'limit'],
  },
  VSPR: {
    id: 'VSPR',
    name: 'Vesper',
    zone: 'UTC',
    session: null,
    weekends: true,
    orderTypes: ['market', 'limit', 'stop-limit'],
  },
};

/** The order types that can wait at the venue: options take limit orders only. */
export function venueOrderTypes(venue: VenueId, kind: InstrumentKind): readonly OrderType[] {
  if (kind === 'index') return [];
  return kind === 'option' ? ['limit'] : VENUES[venue].orderTypes;
}
