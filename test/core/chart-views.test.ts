import { expect } from 'chai';
import fc from 'fast-check';
import { atom } from 'nanostores';
import { docked, placed, readArrangement, type Part, type WorkspaceDocument } from '../../src/views/workspace/arrangement.ts';
import { PREPARED } from '../../src/views/workspace/prepared.ts';
import { problemsIn } from '../../src/desk/saved.ts';
import { drawingAt, handleAt, measureWords, movedBy, pointAt, spotOf, type Drawing, type DrawingKind } from '../../src/views/panes/chart/drawings.ts';
import { indexOfTime, newModel, snap, timeOfIndex, type ChartModel } from '../../src/views/panes/chart/model.ts';
import { lineTerms, movedAlerts } from '../../src/views/panes/chart/line-alerts.ts';
import { $alerts, type ApiAlert, type ApiOrder, type ApiPosition, type LiveOrder } from '../../src/live/index.ts';
import { readOrder, readPosition } from '../../src/live/read.ts';
import { LAYERS } from '../../src/views/panes/chart/layers/index.ts';
import type { Hold, Spot } from '../../src/views/panes/chart/layers/layer.ts';
import { linesOf, type OwnHere } from '../../src/views/panes/chart/own.ts';
import type { Plot } from '../../src/views/panes/chart/plot.ts';
import { Reloading } from '../../src/views/panes/chart/reloading.ts';
import { at, instrument } from '../support/world.ts';

const MINUTE = 60_000;

function chart(count = 200): ChartModel {
  const model = newModel(instrument('GANET.HALM'), MINUTE, () => ({ text: '', strong: false }));
  const price = (i: number): string => (41 + (i % 20) / 100).toFixed(2);
  model.series.prepend(
    Array.from({ length: count }, (_, i) => ({
      time: new Date(at('09:00:00.000') + i * MINUTE).toISOString(),
      open: price(i),
      high: (Number(price(i)) + 0.05).toFixed(2),
      low: price(i),
      close: price(i + 1),
      volume: '10',
    })),
  );
  model.view.width = 700;
  model.view.height = 420;
  model.view.fit(model.series);
  return model;
}

const drawn = (kind: DrawingKind, ...spots: [number, number][]): { model: ChartModel; drawing: Drawing } => {
  const model = chart();
  const drawing: Drawing = {
    id: 'd1',
    kind,
    points: spots.map(([x, y]) => pointAt(model, x, y)),
    colour: 'straw',
    width: 1,
    stroke: 'solid',
    text: 'a note',
    locked: false,
    interval: null,
  };
  model.drawings = [drawing];
  return { model, drawing };
};

describe('a chart’s scales', () => {
  it('give back the price and the bar they were asked with, straight and logarithmic', () => {
    for (const logarithmic of [false, true]) {
      const model = chart();
      model.view.logarithmic = logarithmic;
      model.view.fit(model.series);
      for (const price of [4100, 4107, 4120]) expect(model.view.priceAt(model.view.y(price))).to.be.closeTo(price, 1e-6);
      for (const index of [150, 180, 199]) expect(model.view.indexAt(model.series, model.view.x(model.series, index))).to.equal(index);
    }
  });

  it('zoom about the bar under the pointer, and pan bar for bar', () => {
    const model = chart();
    const x = 300;
    const under = model.view.indexAt(model.series, x);
    for (const factor of [1.12, 1.12, 1 / 1.12, 1.5]) {
      model.view.zoom(model.series, factor, x);
      expect(model.view.indexAt(model.series, x)).to.equal(under);
    }
    const before = model.view.range(model.series).first;
    model.view.pan(model.series, model.view.barPx * 10);
    expect(model.view.range(model.series).first).to.equal(before - 10);
  });

  it('stay where the trader put them until they are let fit again', () => {
    const model = chart();
    const { top } = model.view;
    model.view.stretch(1.5);
    model.view.fit(model.series);
    expect(model.view.top).to.be.greaterThan(top);
    model.view.manual = false;
    model.view.fit(model.series);
    expect(model.view.top).to.equal(top);
  });

  it('find a time’s bar, and reach beyond the bars on both sides', () => {
    const model = chart();
    const open = at('09:00:00.000');
    expect(indexOfTime(model, open + 3.5 * MINUTE)).to.equal(3);
    for (const index of [-5, 0, 7, 199, 205]) expect(indexOfTime(model, timeOfIndex(model, index))).to.equal(index);
  });

  it('snap to the grid', () => {
    const model = chart();
    for (let y = 10; y < 380; y += 7) expect(snap(model, y) % 1).to.equal(0);
  });
});

describe('a drawing', () => {
  for (const [kind, spots, on, off] of [
    ['trend line', [[100, 100], [300, 200]], [200, 151], [200, 190]],
    ['ray', [[100, 100], [200, 150]], [260, 180], [60, 80]],
    ['horizontal line', [[100, 100]], [600, 100], [600, 130]],
    ['vertical line', [[100, 100]], [100, 350], [140, 100]],
    ['channel', [[100, 100], [300, 100], [200, 160]], [250, 160], [250, 130]],
    ['rectangle', [[100, 100], [300, 200]], [200, 200], [200, 150]],
    ['retracement', [[100, 100], [300, 200]], [200, 150], [400, 150]],
    ['measure', [[100, 100], [300, 200]], [300, 150], [350, 150]],
    ['text', [[100, 100]], [110, 102], [100, 140]],
  ] as [DrawingKind, [number, number][], [number, number], [number, number]][])
    it(`is taken up where it is and not beside it: ${kind}`, () => {
      const { model } = drawn(kind, ...spots);
      // Points stand on bars: what is drawn at a place lies within half a bar of it.
      expect(drawingAt(model, ...on)?.id ?? null, 'on it').to.equal('d1');
      expect(drawingAt(model, ...off), 'beside it').to.equal(null);
    }); // prettier-ignore

  it('keeps its place in time and price when the view moves', () => {
    const { model, drawing } = drawn('trend line', [200, 100], [300, 200]);
    const before = drawing.points.map((point) => spotOf(model, point));
    model.view.pan(model.series, 70);
    drawing.points.forEach((point, i) => expect(spotOf(model, point).x - (before[i]?.x ?? 0)).to.be.closeTo(70, 1e-9));
  });

  it('moves as a whole or by a handle', () => {
    const { model, drawing } = drawn('trend line', [200, 100], [300, 200]);
    const spot = spotOf(model, drawing.points[1] as { time: number; price: number });
    expect(handleAt(model, drawing, spot.x + 2, spot.y - 2)).to.equal(1);
    const handled = movedBy(model, drawing, 1, 0, 30);
    expect(handled.points[0]).to.deep.equal(drawing.points[0]);
    expect(spotOf(model, handled.points[1] as { time: number; price: number }).y).to.be.closeTo(spot.y + 30, 1e-6);
    const whole = movedBy(model, drawing, -1, 14, 0);
    expect(whole.points.map((point, i) => point.time - (drawing.points[i]?.time ?? 0))).to.deep.equal([2 * MINUTE, 2 * MINUTE]);
  });

  it('measures price, percent, bars and money', () => {
    const { model, drawing } = drawn('measure', [100, 100], [170, 200]);
    const exact = { ...drawing, points: [{ time: at('09:10:00.000'), price: 41 }, { time: at('09:20:00.000'), price: 41.41 }] }; // prettier-ignore
    model.size = 300;
    expect(measureWords(model, exact)).to.equal('+0.41 · +1.00 % · 10 bars · +123.00 for 300');
  });
});

describe('what lies on a chart', () => {
  const plotOf = (model: ChartModel): Plot & { looked: number } => {
    const plot = {
      of: { pane: 'p1', account: 'MAIN', instrument: model.instrument, interval: '1m', hours: 'all' },
      model,
      $tool: atom<DrawingKind | null>(null),
      $selected: atom<string | null>(null),
      $own: atom({ orders: [], position: null, here: [] }),
      crosshairLetter: null,
      onLoaded: () => () => undefined,
      looked: 0,
      moved: () => void plot.looked++,
      redraw: () => undefined,
    };
    return plot;
  };
  const fromTop = [...LAYERS].reverse();
  const press = (plot: Plot, spot: Spot): Hold | null => fromTop.reduce<Hold | null>((hold, layer) => hold ?? layer.hit?.(plot, spot) ?? null, null);
  const hover = (plot: Plot, spot: Spot | null): void => fromTop.forEach((layer) => layer.hover?.(plot, spot));

  it('is offered a press from the top: the axes are stretched, the plot is moved through time', () => {
    const plot = plotOf(chart());
    const { view } = plot.model;
    const span = view.top - view.bottom;
    press(plot, { x: 690, y: 100 })?.move?.({ x: 690, y: 180 }, { x: 0, y: 80 });
    expect((view.top - view.bottom) / span).to.be.closeTo(Math.exp(0.5), 1e-9);
    const { barPx, ahead } = view;
    press(plot, { x: 300, y: 410 })?.move?.({ x: 380, y: 410 }, { x: 80, y: 0 });
    expect(view.barPx / barPx).to.be.closeTo(Math.exp(0.5), 1e-9);
    const now = view.ahead;
    press(plot, { x: 300, y: 200 })?.move?.({ x: 300 + view.barPx * 3, y: 200 }, { x: view.barPx * 3, y: 0 });
    expect(now - view.ahead).to.be.closeTo(3, 1e-9);
    expect(plot.looked).to.equal(3);
    const double = (spot: Spot): boolean => fromTop.some((layer) => layer.double?.(plot, spot));
    expect([double({ x: 300, y: 200 }), double({ x: 690, y: 100 }), double({ x: 300, y: 410 })]).to.deep.equal([false, true, true]);
    expect([view.manual, view.barPx, view.ahead]).to.deep.equal([false, barPx, ahead]);
  });

  it('shows the crosshair in the plots only', () => {
    const plot = plotOf(chart());
    hover(plot, { x: 300, y: 120 });
    expect(plot.model.crosshair).to.deep.equal({ index: plot.model.view.indexAt(plot.model.series, 300), y: 120 });
    hover(plot, { x: 690, y: 120 });
    expect(plot.model.crosshair).to.equal(null);
    hover(plot, { x: 300, y: 120 });
    hover(plot, null);
    expect(plot.model.crosshair).to.equal(null);
  });

  it('draws with the tool in hand: points one by one, the last follows the pointer, and nothing is left of what is taken back', () => {
    const plot = plotOf(chart());
    plot.$tool.set('channel');
    const pressed = (spot: Spot): void => press(plot, spot)?.release?.(spot, false);
    const points = (): number[] | undefined => plot.model.draft?.points.map(({ price }) => Math.round(plot.model.view.y(price * 100)));
    pressed({ x: 200, y: 100 });
    hover(plot, { x: 260, y: 130 });
    expect(points()).to.deep.equal([100, 130]);
    pressed({ x: 260, y: 130 });
    hover(plot, { x: 260, y: 190 });
    expect(points()).to.deep.equal([100, 130, 190]);
    pressed({ x: 260, y: 180 });
    expect(plot.model.draft).to.equal(null);
    expect(plot.$tool.get()).to.equal(null);
    expect(plot.$selected.get()).to.match(/^d/);
  });

  it('sets the second point where a press is let go that was drawn along', () => {
    const plot = plotOf(chart());
    plot.$tool.set('trend line');
    const hold = press(plot, { x: 200, y: 100 });
    hold?.release?.({ x: 300, y: 150 }, true);
    expect([plot.model.draft, plot.$tool.get()]).to.deep.equal([null, null]);
  });

  it('selects what is pressed and pulls it, the locked one not', () => {
    const { model, drawing } = drawn('trend line', [100, 100], [200, 200]);
    for (const locked of [false, true]) {
      model.drawings = [{ ...drawing, locked }];
      const plot = plotOf(model);
      const { ahead } = model.view;
      const hold = press(plot, { x: 150, y: 150 });
      expect(plot.$selected.get()).to.equal(drawing.id);
      hold?.move?.({ x: 150, y: 170 }, { x: 0, y: 20 });
      const moved = model.draft && model.view.y((model.draft.points[0]?.price ?? 0) * 100) - model.view.y((drawing.points[0]?.price ?? 0) * 100);
      if (locked) expect([moved, model.view.ahead]).to.deep.equal([null, ahead]);
      else expect(moved).to.be.closeTo(20, 1e-6);
      hold?.release?.({ x: 150, y: 170 }, true);
      expect(model.draft).to.equal(null);
    }
  });
});

describe('one’s own lines', () => {
  it('stand where orders wait: at the stop until it triggers, then at the limit; exits held here and the average beside them', () => {
    const order = (stopPrice: string | null, limitPrice: string | null, triggeredAt: string | null, state: string): LiveOrder =>
      readOrder({ quantity: '10', remainingQuantity: '10', stopPrice, limitPrice, triggeredAt, state } as ApiOrder, instrument('GANET.HALM'));
    const held = {
      orders: [order('40.50', '40.40', null, 'new'), order('40.50', '40.40', '2026-03-02T09:00:00.000Z', 'pending-replace'), order(null, null, null, 'new')],
      here: [
        {
          key: 'p 0 target',
          plan: { id: 'p', account: 'MAIN', instrument: 'GANET.HALM' },
          step: 0,
          name: 'target' as const,
          price: '42.00',
          quantity: '10',
          suspended: false,
        },
      ],
      position: readPosition({ quantity: '10', averagePrice: '41.005', mark: null } as ApiPosition, instrument('GANET.HALM')) as OwnHere['position'],
    };
    expect(linesOf(held, instrument('GANET.HALM'))).to.deep.equal([
      { price: 4050, kind: 'stop', pending: false },
      { price: 4040, kind: 'limit', pending: true },
      { price: 4200, kind: 'limit', pending: false },
      { price: 4100.5, kind: 'position', pending: false },
    ]);
  });
});

describe('an alert of a drawing', () => {
  it('waits on the grid: level lines at their price, others from the earlier point to the later', () => {
    const { model, drawing } = drawn('trend line', [200, 100], [100, 200]);
    const terms = lineTerms(drawing, model.instrument);
    const [late, early] = drawing.points;
    expect(terms?.price).to.equal(null);
    expect([terms?.line?.from.time, terms?.line?.to.time]).to.deep.equal([early, late].map((point) => new Date(point?.time ?? 0).toISOString()));
    expect(terms?.line?.from.price).to.equal((early?.price ?? 0).toFixed(2));
    const level = drawn('horizontal line', [100, 100]);
    expect(lineTerms(level.drawing, level.model.instrument))
      .to.include({ line: null })
      .and.to.have.property('price')
      .that.matches(/^\d+\.\d\d$/);
  });

  it('goes with its line where that was pulled, as long as it waits', () => {
    const { model, drawing } = drawn('trend line', [100, 100], [200, 200]);
    const tied = { ...drawing, alert: 'alert-1' };
    const moved = movedBy(model, tied, -1, 0, 20);
    const states = (state: 'waiting' | 'ended'): number => {
      $alerts.set({ 'alert-1': { id: 'alert-1', state } as ApiAlert });
      return movedAlerts(model.instrument, [tied], [moved]).length;
    };
    expect([states('waiting'), states('ended')]).to.deep.equal([1, 0]);
    states('waiting');
    expect(movedAlerts(model.instrument, [tied], [{ ...tied, colour: 'moss' }]), 'only its look is another').to.deep.equal([]);
    expect(movedAlerts(model.instrument, [tied], []), 'it was taken away').to.deep.equal([]);
    $alerts.set(null);
  });
});

describe('what is loaded again and again', () => {
  it('is asked for when the wish is another one, and what comes too late is dropped', async () => {
    const answers: ((found: string) => void)[] = [];
    const got: string[] = [];
    const loading = new Reloading<string, string>(
      60_000,
      () => new Promise((answer) => answers.push(answer)),
      (found) => void got.push(found),
    );
    loading.again();
    expect(answers).to.have.length(0);
    for (const wish of ['a', 'a', 'b']) loading.wish(wish);
    expect(answers).to.have.length(2);
    answers[1]?.('of b');
    answers[0]?.('of a');
    await Promise.resolve();
    expect(got).to.deep.equal(['of b']);
    loading.again();
    loading.stop();
    answers[2]?.('after the end');
    await Promise.resolve();
    expect(got).to.deep.equal(['of b']);
  });
});

describe('a workspace’s arrangement', () => {
  const part = (depth: number): fc.Arbitrary<Part> => {
    const size = fc.integer({ min: 40, max: 400 });
    const stack = fc.record({ stack: fc.constant(['']), active: fc.constant(''), size });
    if (depth === 0) return stack;
    return fc.oneof(stack, fc.record({ split: fc.array(part(depth - 1), { minLength: 1, maxLength: 3 }), size }));
  };
  /** Names the panes of a layout in its order. */
  const named = (from: Part, next: () => string): Part => {
    if ('split' in from) return { ...from, split: from.split.map((one) => named(one, next)) };
    const id = next();
    return { ...from, stack: [id], active: id };
  };
  const shapeOf = (from: Part | null): unknown => (from === null ? null : 'stack' in from ? from.stack : from.split.map(shapeOf));

  it('comes back from the dock as it went in', () => {
    fc.assert(
      fc.property(part(3), fc.constantFrom('row' as const, 'column' as const), (random, direction) => {
        let n = 0;
        const layout = named('split' in random ? random : { split: [random], size: 100 }, () => `p${++n}`);
        const ids = placed(layout);
        const panes = Object.fromEntries(ids.map((id) => [id, { kind: 'Chart' as const, letter: null, intervalLetter: null, instrument: null, account: 'MAIN', settings: {} }]));
        const document: WorkspaceDocument = { format: 1, panes, letters: {}, layout, direction, windows: [] };
        const there = docked(document, 1280, 700);
        expect(Object.keys(there.panels)).to.have.members(ids);
        const back = readArrangement(there);
        expect(back.direction).to.equal(direction);
        expect(shapeOf(back.layout)).to.deep.equal(shapeOf(layout));
      }),
    ); // prettier-ignore
  });

  it('gives the parts of a split all its room, each its share of the gaps', () => {
    const stack = (id: string, size: number): Part => ({ stack: [id], active: id, size });
    const pane = { kind: 'Chart' as const, letter: null, intervalLetter: null, instrument: null, account: 'MAIN', settings: {} };
    const document: WorkspaceDocument = {
      format: 1,
      panes: { a: pane, b: pane, c: pane },
      letters: {},
      layout: { split: [stack('a', 1), { split: [stack('b', 3), stack('c', 1)], size: 3 }], size: 0 },
      direction: 'row',
      windows: [],
    };
    const { root } = docked(document, 1000, 600).grid;
    const [left, right] = root.data as unknown as [{ size: number }, { size: number; data: { size: number }[] }];
    expect([left.size, right.size, ...right.data.map((one) => one.size)]).to.deep.equal([251.5, 748.5, 448.5, 151.5]);
  });

  for (const [name, make] of Object.entries(PREPARED))
    it(`that Kavix brings is one it takes: ${name}`, () => {
      const known = { instrument: (): boolean => true, accounts: ['MAIN', 'EVAL', 'NIGHT'] };
      expect(problemsIn('workspace', make(), known)).to.deep.equal([]);
    });
});
