import { VENUES } from '../../core/instrument/index.ts';
import { clockText } from '../../kit/clock.ts';

/** A moment of the market as the main venue's clock shows it, with its day. */
export const marketTime = (time: number | string): string => clockText(VENUES.HALM.zone, time, 'yyyy-MM-dd HH:mm');
