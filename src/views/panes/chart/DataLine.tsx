import { useEffect, useRef } from 'react';
import { asPrice, formatPrice } from '../../../core/instrument/index.ts';
import { grouped } from '../../../kit/Figure.tsx';
import { writeText } from '../../../kit/write.ts';
import { inkColour } from '../../theme/theme.ts';
import { studyWords, valueText } from './layers/studies.ts';
import { barTime } from './labels.ts';
import type { ChartController } from './controller.ts';
import type { ChartModel } from './model.ts';

const WRITE_EVERY_MS = 200;

/** The figures of the bar under the crosshair, else of the newest, over the plot's top edge. */
export function DataLine({ plot }: { plot: ChartController }) {
  const { model } = plot;
  const line = useRef<HTMLParagraphElement>(null);
  useEffect(() => {
    let before = '';
    let due: ReturnType<typeof setTimeout> | undefined;
    const write = (): void => {
      due = undefined;
      if (!line.current) return;
      const parts = partsOf(model);
      const now = parts.map(({ text }) => text).join(' ');
      if (now === before) return;
      before = now;
      const { children } = line.current;
      while (children.length < parts.length) line.current.append(document.createElement('span'));
      while (children.length > parts.length) line.current.lastElementChild?.remove();
      parts.forEach(({ text, ink }, i) => {
        const span = children[i] as HTMLElement;
        writeText(span, text);
        span.style.color = ink ? inkColour(ink) : '';
      });
    };
    // Text is laid out anew with each change: five times a second is enough to be read.
    const stop = plot.onDrawn(() => (due ??= setTimeout(write, WRITE_EVERY_MS)));
    return () => {
      clearTimeout(due);
      stop();
    };
  }, [plot, model]);
  // The scale leaves room for it; while the crosshair is shown, and its text is another, the scale stands still.
  useEffect(() => {
    const element = line.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      if (model.crosshair || model.view.headPx === element.clientHeight) return;
      model.view.headPx = element.clientHeight;
      plot.redraw();
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [plot, model]);
  return (
    <p
      ref={line}
      className="pointer-events-none absolute left-1 right-[64px] top-0 flex max-h-[36px] flex-wrap gap-x-3 overflow-hidden text-[11px] leading-[18px] text-quiet [&>span]:whitespace-nowrap"
      style={{ fontFamily: 'var(--font-figure)' }}
      data-testid="data-line"
    />
  );
}

function partsOf(model: ChartModel): { text: string; ink?: string }[] {
  const { series, instrument, crosshair } = model;
  const at = Math.max(0, Math.min(series.length - 1, crosshair?.index ?? series.length - 1));
  if (series.length === 0) return [];
  const price = (of: Float64Array): string => formatPrice(instrument, asPrice(of[at] as number));
  const parts: { text: string; ink?: string }[] = [
    { text: barTime(instrument.venue, series.time[at] as number, model.intervalMs >= 86_400_000) },
    { text: `O ${price(series.open)}` },
    { text: `H ${price(series.high)}` },
    { text: `L ${price(series.low)}` },
    { text: `C ${price(series.close)}` },
    { text: `V ${grouped(String(Math.round((series.volume[at] as number) * 1e4) / 1e4))}` },
  ];
  for (const shown of model.studies) {
    const { definition } = shown.values;
    const values = definition.lines.map((_, n) => valueText(model, definition, shown.values.line(n)[at] ?? NaN));
    if (values.length > 0) parts.push({ text: `${studyWords(shown)} ${definition.kind === 'pivots' ? values[3] : values.join(' ')}`, ink: shown.use.colour });
  }
  const { compared } = model;
  if (compared) parts.push({ text: `${compared.instrument} ${Number.isNaN(compared.closes[at] ?? NaN) ? '–' : compared.closes[at]}`, ink: 'iris' });
  for (const { time, text } of model.headlines) if (series.indexOf(time) === at && crosshair) parts.push({ text, ink: '' });
  return parts;
}
