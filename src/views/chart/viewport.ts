import type { BarSeries } from './series.ts';

/** Room for the time labels below and the price labels at the right, in CSS pixels. */
export const AXIS_PX = 60;
export const TIME_PX = 20;
const VOLUME_SHARE = 0.17;
const LEAST_BAR_PX = 1.2;
const MOST_BAR_PX = 40;
const AIR = 0.08;

/** Which bars and prices a plot shows. Bars stand at equal distances: an index axis with time labels. */
export class Viewport {
  barPx = 7;
  /** Bars between the newest one and the right edge of the plot. */
  ahead = 4;
  width = 0;
  height = 0;
  /** Pixels taken at the right by the order strip. */
  stripPx = 0;
  top = 0;
  bottom = 1;
  /** A scale that stands still: while an order could be pressed, or after the axis was dragged. */
  frozen = false;

  get plotWidth(): number {
    return Math.max(1, this.width - AXIS_PX - this.stripPx);
  }

  get plotHeight(): number {
    return Math.max(1, this.height - TIME_PX);
  }

  /** First and last index in view. */
  range(series: BarSeries): { first: number; last: number } {
    const right = series.length - 1 + this.ahead;
    const first = Math.max(0, Math.floor(right - this.plotWidth / this.barPx));
    return { first, last: Math.min(series.length - 1, Math.ceil(right)) };
  }

  x(series: BarSeries, index: number): number {
    return this.plotWidth - (series.length - 1 + this.ahead - index + 0.5) * this.barPx;
  }

  indexAt(series: BarSeries, x: number): number {
    return Math.round(series.length - 1 + this.ahead + 0.5 - (this.plotWidth - x) / this.barPx);
  }

  y(price: number): number {
    return ((this.top - price) / (this.top - this.bottom)) * this.plotHeight;
  }

  priceAt(y: number): number {
    return this.top - (y / this.plotHeight) * (this.top - this.bottom);
  }

  /** Fits the price scale to the bars in view, with room for the volume below. */
  fit(series: BarSeries, extra: readonly number[] = []): void {
    if (this.frozen || series.length === 0) return;
    const { first, last } = this.range(series);
    let high = -Infinity;
    let low = Infinity;
    for (let i = first; i <= last; i++) {
      high = Math.max(high, series.high[i] ?? 0);
      low = Math.min(low, series.low[i] ?? 0);
    }
    const reach = high - low;
    for (const price of extra)
      if (price < high + reach && price > low - reach) {
        high = Math.max(high, price);
        low = Math.min(low, price);
      }
    if (!(high >= low)) return;
    const spread = Math.max(high - low, high * 0.001, 4);
    this.top = high + spread * AIR;
    this.bottom = low - spread * (AIR + VOLUME_SHARE);
  }

  get volumeHeight(): number {
    return this.plotHeight * VOLUME_SHARE * 0.8;
  }

  /** Zooms about a point of the plot. */
  zoom(series: BarSeries, factor: number, x: number): void {
    const index = series.length - 1 + this.ahead + 0.5 - (this.plotWidth - x) / this.barPx;
    this.barPx = Math.max(LEAST_BAR_PX, Math.min(MOST_BAR_PX, this.barPx * factor));
    this.ahead = index - (series.length - 1) - 0.5 + (this.plotWidth - x) / this.barPx;
    this.clamp(series);
  }

  pan(series: BarSeries, pixels: number): void {
    this.ahead -= pixels / this.barPx;
    this.clamp(series);
  }

  toNewest(): void {
    this.ahead = 4;
  }

  private clamp(series: BarSeries): void {
    const shown = this.plotWidth / this.barPx;
    this.ahead = Math.max(-(series.length - 2), Math.min(shown - 2, this.ahead));
  }
}
