import { CategoryScale, Chart, LinearScale, TimeSeriesScale, TimeScale } from 'chart.js';
import 'chartjs-adapter-luxon';
import { CandlestickController, CandlestickElement, OhlcController, OhlcElement } from 'chartjs-chart-financial';
import { FIXED_INSTRUMENTS } from '../demo/fixed.ts';
import { Chance } from '../src/core/random/index.ts';
import { makeChart } from '../src/views/panes/chart/canvas.ts';
import { newModel } from '../src/views/panes/chart/model.ts';
import { STUDIES, StudySeries } from '../src/core/study/index.ts';
import uPlot from 'uplot';

Chart.register(CandlestickController, CandlestickElement, OhlcController, OhlcElement, CategoryScale, LinearScale, TimeScale, TimeSeriesScale);

const BARS = 3000;
const FRAMES = 60;

const bars = (() => {
  const chance = new Chance(7);
  let price = 4100;
  return Array.from({ length: BARS }, (_, i) => {
    const open = price;
    price += chance.below(21) - 10;
    return { time: Date.UTC(2026, 2, 2, 9) + i * 60_000, open, high: Math.max(open, price) + 4, low: Math.min(open, price) - 4, close: price };
  });
})();

const canvas = (): HTMLCanvasElement => {
  const box = document.createElement('div');
  box.style.cssText = 'position:absolute;left:0;top:0;width:640px;height:420px';
  const made = document.createElement('canvas');
  box.append(made);
  document.body.replaceChildren(box);
  return made;
};

const median = (values: number[]): number => values.sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? NaN;

/** Script time of one frame in which one bar changes, the median of many. */
function timeFrames(change: (i: number) => void, draw: () => void): number {
  const taken: number[] = [];
  for (let i = 0; i < FRAMES; i++) {
    change(i);
    const from = performance.now();
    draw();
    taken.push(performance.now() - from);
  }
  return median(taken);
}

/** `averages` as studies over them, each with its own length. */
function ours(shown: number, averages: readonly number[] = []): number {
  const [instrument] = FIXED_INSTRUMENTS;
  if (!instrument) throw new Error('no instrument');
  const model = newModel(instrument, 60_000, () => ({ text: '09:00', strong: false }));
  const { series, view } = model;
  const text = (units: number): string => (units / 100).toFixed(2);
  series.prepend(
    bars.map((bar) => ({
      time: new Date(bar.time).toISOString(),
      open: text(bar.open),
      high: text(bar.high),
      low: text(bar.low),
      close: text(bar.close),
      volume: '100',
    })),
  );
  model.studies = averages.map((length, i) => {
    const definition = STUDIES.get('sma');
    if (!definition) throw new Error('no average');
    const values = new StudySeries(definition, { period: length });
    values.update(series, 0);
    return { use: { id: `s${i}`, study: 'sma', parameters: { period: length }, colour: 'moss', width: 1.3, stroke: 'solid' }, values };
  });
  const chart = makeChart(canvas(), model);
  view.barPx = 580 / shown;
  const last = bars[BARS - 1] as (typeof bars)[number];
  return timeFrames(
    (i) =>
      series.update({
        time: new Date(last.time).toISOString(),
        open: text(last.open),
        high: text(last.high + i),
        low: text(last.low),
        close: text(last.close + (i % 5)),
        volume: '100',
      }),
    () => chart.draw(),
  );
}

function baseline(): number {
  const data = bars.map((bar) => ({ x: bar.time, o: bar.open, h: bar.high, l: bar.low, c: bar.close }));
  const chart = new Chart(canvas(), {
    type: 'candlestick',
    data: { datasets: [{ label: 'x', data }] },
    options: { animation: false, maintainAspectRatio: false },
  } as never);
  return timeFrames(
    (i) => {
      const last = data[BARS - 1];
      if (last) last.c += i % 2 ? 1 : -1;
    },
    () => chart.update('none'),
  );
}

/** A plain chart of lines: five of as many points, drawn whole. It draws in a microtask after it was asked. */
async function lines(): Promise<number> {
  const box = document.createElement('div');
  document.body.replaceChildren(box);
  const of = (key: 'open' | 'high' | 'low' | 'close'): number[] => bars.map((bar) => bar[key] / 100);
  const data: uPlot.AlignedData = [
    bars.map(({ time }) => time / 1000),
    of('open'),
    of('high'),
    of('low'),
    of('close'),
    bars.map(({ open, close }) => (open + close) / 200),
  ];
  const inks = ['#66ddb4', '#f09c63', '#f0d57f', '#b29af0', '#e8efe8'];
  const plot = new uPlot({ width: 640, height: 420, series: [{}, ...inks.map((stroke) => ({ stroke }))] }, data, box);
  await Promise.resolve();
  const taken: number[] = [];
  for (let i = 0; i < FRAMES; i++) {
    const from = performance.now();
    plot.redraw(true);
    await Promise.resolve();
    taken.push(performance.now() - from);
    await new Promise(requestAnimationFrame);
  }
  return median(taken);
}

declare global {
  interface Window {
    benchResult: { ours: number; oursAll: number; withAverages: number; baseline: number; lines: number };
  }
}
void lines().then((drawn) => {
  window.benchResult = { ours: ours(120), oursAll: ours(BARS), withAverages: ours(BARS, [20, 50]), baseline: baseline(), lines: drawn };
});
