import { volumeProfile, type StudyDefinition } from '../../../../core/study/index.ts';
import { grouped } from '../../../../kit/Figure.tsx';
import { colour, inkColour } from '../../../theme/theme.ts';
import type { ChartModel, ShownStudy, StudyUse } from '../model.ts';
import { stampText } from '../stamp.ts';
import { AXIS_PX } from '../viewport.ts';
import type { Layer } from './layer.ts';

const OWN_SHARE = 0.19;
const OWN_LEAST_PX = 48;
const OWN_MOST_SHARE = 0.6;

const dash = (stroke: StudyUse['stroke']): number[] => (stroke === 'dashed' ? [6, 4] : stroke === 'dotted' ? [1.5, 3] : []);

/** A study in few words: its short name and parameters. */
export function studyWords({ use, values }: ShownStudy): string {
  const { definition } = values;
  const given = definition.parameters.filter(({ name }) => name !== 'source').map(({ name, fallback }) => use.parameters[name] ?? fallback);
  return given.length === 0 ? definition.name : `${SHORT[definition.kind] ?? definition.name} ${given.join(' ')}`;
}

const SHORT: Readonly<Record<string, string>> = {
  sma: 'SMA',
  ema: 'EMA',
  wma: 'WMA',
  vwap: 'VWAP',
  bollinger: 'Bollinger',
  keltner: 'Keltner',
  donchian: 'Donchian',
  atr: 'ATR',
  rsi: 'RSI',
  stochastic: 'Stochastic',
  cci: 'CCI',
  adx: 'ADX',
  'linear-regression': 'Regression',
  'rate-of-change': 'ROC',
  parabolic: 'SAR',
};

export const ownStudies = (model: ChartModel): readonly ShownStudy[] => model.studies.filter(({ values }) => values.definition.place === 'own');

/** Height for the plots of their own, within the whole. */
export function ownHeight(count: number, height: number): number {
  if (count === 0) return 0;
  return Math.round(Math.min(height * OWN_MOST_SHARE, count * Math.max(OWN_LEAST_PX, height * OWN_SHARE)));
}

/** Prices that studies on the plot reach, so that the scale has room for them. */
export function* studyReach({ studies, view, series }: ChartModel): Generator<number> {
  const { first, last } = view.range(series);
  for (const { values } of studies) {
    const { definition } = values;
    if (definition.place !== 'price' || definition.kind === 'pivots') continue;
    for (let at = 0; at < definition.lines.length; at++) {
      const line = values.line(at);
      let high = -Infinity;
      let low = Infinity;
      for (let i = first; i <= last; i++) {
        const value = line[i] ?? NaN;
        if (value > high) high = value;
        if (value < low) low = value;
      }
      if (high >= low) {
        yield high;
        yield low;
      }
    }
  }
}

/** Studies on the prices. */
export const priceStudies: Layer = { within: 'plot', draw: drawPriceStudies };
/** Their names at the right ends of their lines, over all that is drawn. */
export const studyNames: Layer = { within: 'plot', draw: drawStudyNames };
/** Studies in plots of their own, below the prices. */
export const ownPlots: Layer = { within: 'canvas', draw: drawOwnPlots };

function drawPriceStudies(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  for (const shown of model.studies) {
    if (shown.values.definition.place !== 'price') continue;
    if (shown.use.study === 'volume-profile') drawProfile(ctx, model, shown.use);
    else drawLines(ctx, model, shown, (value) => model.view.y(value));
  }
}

function drawLines(ctx: CanvasRenderingContext2D, model: ChartModel, { use, values }: ShownStudy, y: (value: number) => number): void {
  const { view, series } = model;
  const { first, last } = view.range(series);
  ctx.strokeStyle = ctx.fillStyle = inkColour(use.colour);
  ctx.lineWidth = use.width;
  values.definition.lines.forEach(({ style }, at) => {
    const line = values.line(at);
    // Side lines of a band are drawn thinner than the middle.
    ctx.globalAlpha = at > 0 && style === 'line' && values.definition.lines.length > 2 ? 0.75 : 1;
    ctx.setLineDash(dash(use.stroke));
    ctx.beginPath();
    let drawing = false;
    for (let i = first; i <= last; i++) {
      const value = line[i] ?? NaN;
      if (Number.isNaN(value)) {
        drawing = false;
        continue;
      }
      const x = view.x(series, i);
      switch (style) {
        case 'dots':
          ctx.moveTo(x + 1.3, y(value));
          ctx.arc(x, y(value), 1.3, 0, 7);
          break;
        case 'histogram':
          ctx.moveTo(Math.round(x) + 0.5, y(0));
          ctx.lineTo(Math.round(x) + 0.5, y(value));
          break;
        case 'steps':
          if (drawing && line[i - 1] === value) ctx.lineTo(x + view.barPx / 2, y(value));
          else {
            ctx.moveTo(x - view.barPx / 2, y(value));
            ctx.lineTo(x + view.barPx / 2, y(value));
          }
          drawing = true;
          break;
        case 'line':
          if (drawing) ctx.lineTo(x, y(value));
          else ctx.moveTo(x, y(value));
          drawing = true;
          break;
        default:
          style satisfies never;
      }
    }
    if (style === 'dots') ctx.fill();
    else ctx.stroke();
  });
  ctx.setLineDash([]);
  ctx.globalAlpha = 1;
}

/** A name that would cover another steps aside. */
function drawStudyNames(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  const { view, series } = model;
  const { last } = view.range(series);
  const taken: number[] = [];
  ctx.textAlign = 'right';
  ctx.textBaseline = 'bottom';
  for (const shown of model.studies) {
    const { definition } = shown.values;
    if (definition.place !== 'price') continue;
    definition.lines.forEach(({ name, style }, at) => {
      const value = shown.values.line(at)[last] ?? NaN;
      if (Number.isNaN(value)) return;
      if (definition.lines.length > 1 && style === 'line' && at !== 0) return;
      const y = view.y(value);
      if (y < 12 || y > view.plotHeight || taken.some((other) => Math.abs(other - y) < 11)) return;
      taken.push(y);
      ctx.fillStyle = inkColour(shown.use.colour);
      stampText(ctx, style === 'steps' ? name : studyWords(shown), view.plotWidth - 3, y - 2);
    });
  }
}

function drawProfile(ctx: CanvasRenderingContext2D, model: ChartModel, use: StudyUse): void {
  const { view, series } = model;
  const { first, last } = view.range(series);
  const found = volumeProfile(series, first, last, Math.round(use.parameters['rows'] ?? 40));
  if (!found) return;
  const most = found.volume[found.most] as number;
  ctx.fillStyle = inkColour(use.colour);
  found.volume.forEach((volume, row) => {
    const top = view.y(found.from + (row + 1) * found.step);
    const bottom = view.y(found.from + row * found.step);
    ctx.globalAlpha = row === found.most ? 0.28 : 0.16;
    ctx.fillRect(0, top, (volume / most) * view.plotWidth * 0.24, Math.max(1, bottom - top - 0.5));
  });
  ctx.globalAlpha = 1;
}

/** A value of a study in words: prices as the instrument writes them, volumes grouped, bare numbers with two places. */
export function valueText(model: ChartModel, definition: StudyDefinition, value: number): string {
  if (Number.isNaN(value)) return '–';
  const { priceDecimals } = model.instrument;
  const sign = value < 0 ? '−' : '';
  const size = Math.abs(value);
  if (definition.place === 'price' || definition.unit === 'price') return sign + (size / 10 ** priceDecimals).toFixed(priceDecimals + 1);
  return sign + (definition.unit === 'volume' ? grouped(size.toFixed(0)) : size.toFixed(2));
}

function drawOwnPlots(ctx: CanvasRenderingContext2D, model: ChartModel): void {
  const { view, series } = model;
  const own = ownStudies(model);
  if (own.length === 0) return;
  const height = view.ownPx / own.length;
  const { first, last } = view.range(series);
  own.forEach((shown, n) => {
    const top = view.plotHeight + n * height;
    const { definition } = shown.values;
    let high = -Infinity;
    let low = Infinity;
    const see = (value: number): void => {
      if (Number.isNaN(value)) return;
      high = Math.max(high, value);
      low = Math.min(low, value);
    };
    for (const level of definition.levels ?? []) see(level);
    for (let at = 0; at < definition.lines.length; at++) for (let i = first; i <= last; i++) see(shown.values.line(at)[i] ?? NaN);
    const air = (high - low || 1) * 0.12;
    const y = (value: number): number => top + 2 + ((high + air - value) / (high - low + 2 * air || 1)) * (height - 4);
    ctx.strokeStyle = colour('hair');
    ctx.lineWidth = 1;
    ctx.beginPath();
    ctx.moveTo(0, Math.round(top) + 0.5);
    ctx.lineTo(view.width, Math.round(top) + 0.5);
    ctx.stroke();
    ctx.save();
    ctx.beginPath();
    ctx.rect(0, top, view.plotWidth, height);
    ctx.clip();
    ctx.setLineDash([2, 3]);
    ctx.beginPath();
    for (const level of definition.levels ?? []) {
      ctx.moveTo(0, Math.round(y(level)) + 0.5);
      ctx.lineTo(view.plotWidth, Math.round(y(level)) + 0.5);
    }
    ctx.stroke();
    ctx.setLineDash([]);
    if (high >= low) drawLines(ctx, model, shown, y);
    ctx.restore();
    ctx.fillStyle = inkColour(shown.use.colour);
    ctx.textAlign = 'left';
    ctx.textBaseline = 'top';
    stampText(ctx, studyWords(shown), 4, top + 3);
    ctx.fillStyle = colour('quiet');
    ctx.textAlign = 'right';
    ctx.textBaseline = 'middle';
    const value = shown.values.line(0)[series.length - 1] ?? NaN;
    if (!Number.isNaN(value)) stampText(ctx, valueText(model, definition, value), view.width - 6, Math.max(top + 7, Math.min(top + height - 7, y(value))));
    ctx.fillStyle = colour('line');
    for (const level of definition.levels ?? []) if (Math.abs(y(level) - y(value)) > 11) stampText(ctx, String(level), view.width - AXIS_PX + 30, y(level));
  });
}
