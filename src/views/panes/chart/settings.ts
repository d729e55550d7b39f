import { choice, FAR_TICKS, number, toggle } from '../../workspace/settings.ts';

export const CHART = {
  style: choice('Bars', [['candle', 'filled and hollow'], ['hollow', 'hollow by close'], ['bar', 'bars'], ['line', 'line'], ['area', 'area']]), // prettier-ignore
  filled: choice('Filled', [['down', 'falling'], ['up', 'rising'], ['both', 'both'], ['none', 'none']]), // prettier-ignore
  scale: choice('Scale', [['linear', 'linear'], ['log', 'logarithmic'], ['percent', 'percent']]), // prettier-ignore
  hours: choice('Hours', [['all', 'all of the venue'], ['session', 'the usual session']]), // prettier-ignore
  volume: toggle('Volume below', true),
  crosshair: toggle('Crosshair shared by letter', true),
  previousDay: toggle('Previous day’s high, low, close', false),
  openingRange: toggle('Opening range', false),
  openingMinutes: number('Opening range, minutes', 1, 120, 15),
  vwap: toggle('VWAP of the session', false),
  headlines: toggle('Marks of headlines', true),
  soundings: toggle('Soundings', true),
  farTicks: FAR_TICKS,
} as const;
