import type { BarSeries } from './series.ts';

/** Room for the time labels below and the price labels at the right, in CSS pixels. */
export const AXIS_PX = 60;
export const TIME_PX = 20;
/** The order strip's, between plot and price axis. */
export const STRIP_PX = 44;
const VOLUME_SHARE = 0.17;
const LEAST_BAR_PX = 0.4;
const MOST_BAR_PX = 40;
const USUAL_BAR_PX = 7;
const USUAL_AHEAD = 4;
const AIR = 0.08;
/** What is cut off the tails of the trader's own zoom of the price axis. */
const LEAST_REACH = 4;

/** Which bars and prices a plot shows. Bars stand at equal distances: an index axis with time labels. */
export class Viewport {
  barPx = USUAL_BAR_PX;
  /** Bars between the newest one and the right edge of the plot. */
  ahead = USUAL_AHEAD;
  width = 0;
  height = 0;
  /** Pixels taken at the right by the order strip. */
  stripPx = 0;
  /** Pixels taken at the bottom by studies with plots of their own. */
  ownPx = 0;
  top = 0;
  bottom = 1;
  /** A scale that stands still while an order could be pressed. */
  frozen = false;
  /** The trader has set the price axis; a double-click on it lets it fit again. */
  manual = false;
  logarithmic = false;
  /** Share of the plot that the volume takes below; 0 without it. */
  volumeShare = VOLUME_SHARE;
  /** Room at the top of the plot for what is written over it, in pixels. */
  headPx = 0;

  get plotWidth(): number {
    return Math.max(1, this.width - AXIS_PX - this.stripPx);
  }

  /** Height of the plot of prices. */
  get plotHeight(): number {
    return Math.max(1, this.height - TIME_PX - this.ownPx);
  }

  /** Where the plots end and the time labels begin. */
  get timeTop(): number {
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
    return ((this.scaled(this.top) - this.scaled(price)) / (this.scaled(this.top) - this.scaled(this.bottom))) * this.plotHeight;
  }

  priceAt(y: number): number {
    const scaled = this.scaled(this.top) - (y / this.plotHeight) * (this.scaled(this.top) - this.scaled(this.bottom));
    return this.logarithmic ? Math.exp(scaled) : scaled;
  }

  private scaled(price: number): number {
    return this.logarithmic ? Math.log(Math.max(price, 0.5)) : price;
  }

  /** Fits the price scale to the bars in view, with room for the volume below. */
  fit(series: BarSeries, extra: Iterable<number> = []): void {
    if (this.frozen || this.manual || series.length === 0) return;
    const { first, last } = this.range(series);
    let high = -Infinity;
    let low = Infinity;
    for (let i = first; i <= last; i++) {
      high = Math.max(high, series.high[i] ?? 0);
      low = Math.min(low, series.low[i] ?? 0);
    }
    const reach = high - low;
    const [top, bottom] = [high + reach, low - reach];
    for (const price of extra)
      if (price < top && price > bottom) {
        high = Math.max(high, price);
        low = Math.min(low, price);
      }
    if (!(high >= low)) return;
    const spread = Math.max(high - low, high * 0.001, LEAST_REACH);
    this.top = high + spread * AIR;
    this.bottom = low - spread * (AIR + this.volumeShare);
    // The data line lies over the plot's head: prices stay below it.
    this.top += ((this.top - this.bottom) * this.headPx) / Math.max(this.headPx, this.plotHeight - this.headPx);
    if (this.logarithmic) this.bottom = Math.max(this.bottom, low * 0.5, 1);
  }

  get volumeHeight(): number {
    return this.plotHeight * this.volumeShare * 0.8;
  }

  /** Zooms about a point of the plot. */
  zoom(series: BarSeries, factor: number, x: number): void {
    const index = series.length - 1 + this.ahead + 0.5 - (this.plotWidth - x) / this.barPx;
    this.barPx = Math.max(LEAST_BAR_PX, Math.min(MOST_BAR_PX, this.barPx * factor));
    this.ahead = index - (series.length - 1) - 0.5 + (this.plotWidth - x) / this.barPx;
    this.clamp(series);
  }

  /** Stretches the price scale about its middle. It stays so until it is let fit again. */
  stretch(factor: number): void {
    this.manual = true;
    const middle = (this.scaled(this.top) + this.scaled(this.bottom)) / 2;
    const half = ((this.scaled(this.top) - this.scaled(this.bottom)) / 2) * factor;
    const back = (scaled: number): number => (this.logarithmic ? Math.exp(scaled) : scaled);
    this.top = back(middle + half);
    this.bottom = back(middle - half);
  }

  /** Moves the price scale by pixels, once the trader has set it. */
  shift(pixels: number): void {
    if (!this.manual) return;
    const [top, bottom] = [this.priceAt(-pixels), this.priceAt(this.plotHeight - pixels)];
    this.top = top;
    this.bottom = bottom;
  }

  pan(series: BarSeries, pixels: number): void {
    this.ahead -= pixels / this.barPx;
    this.clamp(series);
  }

  toNewest(): void {
    this.ahead = USUAL_AHEAD;
  }

  /** The time axis as it is at first. */
  fitTime(): void {
    this.barPx = USUAL_BAR_PX;
    this.toNewest();
  }

  private clamp(series: BarSeries): void {
    const shown = this.plotWidth / this.barPx;
    this.ahead = Math.max(-(series.length - 2), Math.min(shown - 2, this.ahead));
  }
}
