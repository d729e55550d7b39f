import { asPrice, asQuantity, formatPrice, formatQuantity } from '../../../core/instrument/index.ts';
import { studyWords } from './layers/studies.ts';
import type { ChartModel } from './model.ts';
import { colour } from '../../theme/theme.ts';
import Papa from 'papaparse';
import { saveFile } from '../../../kit/save-file.ts';

/** The bars in view with their studies, as CSV. */
export function chartCsv(model: ChartModel): string {
  const { series, view, instrument, studies } = model;
  const { first, last } = view.range(series);
  const columns = studies.flatMap((shown) =>
    shown.values.definition.lines.map((line, at) => ({ name: `${studyWords(shown)} ${line.name}`, values: shown.values.line(at), shown })),
  );
  const rows = [['time', 'open', 'high', 'low', 'close', 'volume', ...columns.map(({ name }) => name)]];
  for (let i = first; i <= last; i++)
    rows.push([
      new Date(series.time[i] as number).toISOString(),
      ...[series.open, series.high, series.low, series.close].map((of) => formatPrice(instrument, asPrice(of[i] as number))),
      formatQuantity(instrument, asQuantity(Math.round((series.volume[i] as number) * 10 ** instrument.quantityDecimals))),
      ...columns.map(({ values, shown }) => {
        const value = values[i] as number;
        if (Number.isNaN(value)) return '';
        const { definition } = shown.values;
        return String(definition.place === 'price' || definition.unit === 'price' ? value / 10 ** instrument.priceDecimals : value);
      }),
    ]);
  return Papa.unparse(rows, { newline: '\r\n' });
}

export const saveCsv = (model: ChartModel, interval: string): void => saveFile(`${model.instrument.id} ${interval}.csv`, 'text/csv', chartCsv(model));

/** The chart as it is drawn, on its own ground. */
export function savePng(model: ChartModel, canvas: HTMLCanvasElement, interval: string): void {
  const copy = document.createElement('canvas');
  copy.width = canvas.width;
  copy.height = canvas.height;
  const ctx = copy.getContext('2d');
  if (!ctx) return;
  ctx.fillStyle = colour('pane');
  ctx.fillRect(0, 0, copy.width, copy.height);
  ctx.drawImage(canvas, 0, 0);
  copy.toBlob((picture) => picture && saveFile(`${model.instrument.id} ${interval}.png`, 'image/png', picture));
}
