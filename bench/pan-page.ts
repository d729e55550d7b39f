import { FIXED_INSTRUMENTS } from '../demo/fixed.ts';
import { Chance } from '../src/core/random/index.ts';
import { STUDIES, StudySeries } from '../src/core/study/index.ts';
import { makeChart } from '../src/views/panes/chart/canvas.ts';
import { newModel } from '../src/views/panes/chart/model.ts';

const BARS = 100_000;
const FRAMES = 400;

/** Pans and zooms over 100,000 bars with five studies, a step a frame. */
async function run(): Promise<void> {
  const [instrument] = FIXED_INSTRUMENTS;
  if (!instrument) throw new Error('no instrument');
  const model = newModel(instrument, 60_000, (time) => ({ text: new Date(time).toISOString().slice(11, 16), strong: false }));
  const { series, view } = model;
  const chance = new Chance(5);
  let price = 4100;
  series.prepend(
    Array.from({ length: BARS }, (_, i) => {
      const open = price;
      price = Math.max(500, price + chance.below(21) - 10);
      const text = (units: number): string => (units / 100).toFixed(2);
      return {
        time: new Date(Date.UTC(2025, 0, 1) + i * 60_000).toISOString(),
        open: text(open),
        high: text(Math.max(open, price) + 4),
        low: text(Math.min(open, price) - 4),
        close: text(price),
        volume: String(100 + chance.below(900)),
      };
    }),
  );
  model.studies = (['sma', 'ema', 'bollinger', 'rsi', 'macd'] as const).map((study, i) => {
    const definition = STUDIES.get(study);
    if (!definition) throw new Error(study);
    const values = new StudySeries(definition, {});
    values.update(series, 0);
    return { use: { id: `s${i}`, study, parameters: {}, colour: 'moss', width: 1.3, stroke: 'solid' }, values };
  });
  const box = document.createElement('div');
  box.style.cssText = 'position:absolute;left:0;top:0;width:1240px;height:660px';
  const canvas = document.createElement('canvas');
  box.append(canvas);
  document.body.replaceChildren(box);
  const chart = makeChart(canvas, model);
  for (let i = 0; i < FRAMES; i++) {
    await new Promise(requestAnimationFrame);
    // A sweep out, along, and in again.
    if (i % 100 < 30) view.zoom(series, 0.93, 600);
    else if (i % 100 < 70) view.pan(series, 90);
    else view.zoom(series, 1.09, 500);
    chart.draw();
  }
}

declare global {
  interface Window {
    panned?: boolean;
  }
}
void run().then(() => (window.panned = true));
