import { expect } from 'chai';
import fc from 'fast-check';
import { docked, placed, readArrangement, type Part, type WorkspaceDocument } from '../../src/views/workspace/arrangement.ts';
import { PREPARED } from '../../src/views/workspace/prepared.ts';
import { problemsIn } from '../../src/desk/saved.ts';
import { drawingAt, handleAt, measureWords, movedBy, pointAt, spotOf, type Drawing, type DrawingKind } from '../../src/views/panes/chart/drawings.ts';
import { indexOfTime, newModel, snap, timeOfIndex, type ChartModel } from '../../src/views/panes/chart/model.ts';
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
    expect(measureWords(model, exact, 300)).to.equal('+0.41 · +1.00 % · 10 bars · +123.00 for 300');
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

  it('gives the parts of a split all its room', () => {
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
    expect([left.size, right.size, ...right.data.map((one) => one.size)]).to.deep.equal([250, 750, 450, 150]);
  });

  for (const [name, make] of Object.entries(PREPARED))
    it(`that Kavix brings is one it takes: ${name}`, () => {
      const known = { instrument: (): boolean => true, accounts: ['MAIN', 'EVAL', 'NIGHT'] };
      expect(problemsIn('workspace', make(), known)).to.deep.equal([]);
    });
});
