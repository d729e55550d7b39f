import { expect } from 'chai';
import fc from 'fast-check';
import { $dataRate, $merged, beginRate, passOn, setDataRate } from '../../src/live/rate.ts';
import type { TopicMessage } from '../../src/live/protocol.ts';
import type { Instrument } from '../../src/core/instrument/index.ts';
import { instruments } from '../../src/live/index.ts';
import { $undone, noteOrderAct, noteUndoable, undoLast } from '../../src/client/undo.ts';
import { readRows, watchlistCsv } from '../../src/views/panes/watchlist/list-file.ts';
import type { WatchRow } from '../../src/views/panes/watchlist/watchlists.ts';
import type { GridColumn } from '../../src/kit/Grid.tsx';
import { gridCsv } from '../../src/kit/grid-csv.ts';
import { chartCsv } from '../../src/views/panes/chart/export.ts';
import { newModel } from '../../src/views/panes/chart/model.ts';
import { at, INSTRUMENTS, instrument } from '../support/world.ts';

const change = (topic: string, data: unknown): TopicMessage => ({ topic, snapshot: false, data });
const snapshot = (topic: string, data: unknown): TopicMessage => ({ topic, snapshot: true, data });
const wait = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

describe('a window’s data rate', () => {
  let got: TopicMessage[];
  const stored = new Map<string, string>();
  before(() => {
    globalThis.sessionStorage = { getItem: (key: string) => stored.get(key) ?? null, setItem: (key: string, value: string) => stored.set(key, value) } as unknown as Storage; // prettier-ignore
  });
  beforeEach(() => {
    got = [];
    stored.clear();
    beginRate((messages) => got.push(...messages));
  });
  after(() => setDataRate(60));

  it('lets all through as it comes, unless it is slowed', () => {
    passOn([change('quote:A', 1), change('quote:A', 2)]);
    expect(got.map(({ data }) => data)).to.deep.equal([1, 2]);
    expect($merged.get()).to.equal(0);
  });

  it('holds quotes, depth and bars back, hands on the newest of each, and counts what was merged', async () => {
    setDataRate(10);
    passOn([change('quote:A', 1), change('depth:A', 'd'), change('bars:A:5m', 'b')]);
    passOn([change('quote:A', 2), change('quote:B', 7)]);
    passOn([change('quote:A', 3)]);
    expect(got).to.deep.equal([]);
    await wait(160);
    expect(got.map(({ topic, data }) => [topic, data])).to.deep.equal([
      ['quote:A', 3],
      ['depth:A', 'd'],
      ['bars:A:5m', 'b'],
      ['quote:B', 7],
    ]);
    expect($merged.get()).to.equal(2);
  });

  it('never holds back prints, orders, fills or headlines', () => {
    setDataRate(2);
    for (const topic of ['trades:A', 'orders', 'fills:MAIN', 'positions', 'news', 'link', 'clock']) passOn([change(topic, topic)]);
    expect(got).to.have.length(7);
  });

  it('takes a snapshot for newer than what waited before it', async () => {
    setDataRate(10);
    passOn([change('quote:A', 'old')]);
    passOn([snapshot('quote:A', 'whole')]);
    await wait(160);
    expect(got.map(({ data }) => data)).to.deep.equal(['whole']);
  });

  it('hands on what waits when it is taken off, and is kept as long as the window', () => {
    setDataRate(2);
    passOn([change('quote:A', 1)]);
    setDataRate(60);
    expect(got.map(({ data }) => data)).to.deep.equal([1]);
    setDataRate(10);
    beginRate(() => undefined);
    expect($dataRate.get()).to.equal(10);
    stored.set('kavix.rate', '9000');
    beginRate(() => undefined);
    expect($dataRate.get()).to.equal(60);
  });
});

describe('taking back', () => {
  it('goes from the newest act to the oldest, and says what came back', async () => {
    const back: string[] = [];
    for (const name of ['a list', 'a drawing']) noteUndoable(name, () => void back.push(name));
    undoLast();
    undoLast();
    await wait(0);
    expect(back).to.deep.equal(['a drawing', 'a list']);
    expect($undone.get()?.words).to.equal('back: a list');
  });

  it('never touches an order: it stops there and says so', () => {
    const back: string[] = [];
    noteUndoable('a workspace', () => void back.push('a workspace'));
    noteOrderAct('buy 300 GANET.HALM at 41.20');
    undoLast();
    undoLast();
    expect(back).to.deep.equal([]);
    expect($undone.get()?.words).to.contain('buy 300 GANET.HALM at 41.20').and.to.contain('never touches orders');
    expect($undone.get()?.offer).to.equal(null);
  });
});

describe('a watchlist as CSV', () => {
  const known = instruments as Map<string, Instrument>;
  before(() => {
    for (const one of INSTRUMENTS.values()) known.set(one.id, one);
  });
  after(() => known.clear());

  const words = fc.string({ minLength: 1, maxLength: 30 }).map((text) => text.trim()).filter((text) => text !== ''); // prettier-ignore
  const row: fc.Arbitrary<WatchRow> = fc.oneof(
    words.map((section) => ({ section })),
    fc.record({ instrument: fc.constantFrom(...INSTRUMENTS.keys()), note: words, mark: fc.constantFrom(...'ABYZ') }, { requiredKeys: ['instrument'] }),
  );

  it('comes back as it went out, whatever its notes and sections say', () => {
    fc.assert(
      fc.property(fc.array(row, { maxLength: 20 }), (rows) => {
        expect(readRows(watchlistCsv({ rows }))).to.deep.equal({ rows, unknown: [] });
      }),
      { numRuns: 300 },
    );
  });

  it('is read without a header and with one of its own, unknown symbols named by their line', () => {
    expect(readRows('ganet.halm\nNOSUCH\n\nBRINE.HALM\n')).to.deep.equal({
      rows: [{ instrument: 'GANET.HALM' }, { instrument: 'BRINE.HALM' }],
      unknown: [{ line: 2, text: 'NOSUCH' }],
    });
    expect(readRows('note,symbol\nwatch the open,KELPA.HALM\n').rows).to.deep.equal([{ instrument: 'KELPA.HALM', note: 'watch the open' }]);
  });
});

describe('a table’s rows as CSV', () => {
  it('hold exact values under the columns’ heads, and nothing a spreadsheet would compute', () => {
    const rows = [
      { text: 'GANET, "the first"', quantity: '1200.50' },
      { text: '=1+1', quantity: '-3' },
    ];
    const columns: readonly GridColumn<(typeof rows)[number]>[] = [
      { id: 'text', head: 'name', value: ({ text }) => text },
      { id: 'drawn', head: 'drawn', cell: () => 'never saved' },
      { id: 'quantity', head: 'qty', value: ({ quantity }) => Number(quantity), csv: ({ quantity }) => quantity },
    ];
    expect(gridCsv(columns, rows)).to.equal('name,qty\r\n"GANET, ""the first""",1200.50\r\n"\'=1+1",-3');
  });
});

describe('a chart as CSV', () => {
  it('holds the bars in view, each price as its instrument writes it', () => {
    const model = newModel(instrument('KELPA.HALM'), 60_000, () => ({ text: '', strong: false }));
    const bar = (i: number, close: string): object => ({ time: new Date(at('09:00:00.000') + i * 60_000).toISOString(), open: '9.940', high: '9.990', low: '9.9', close, volume: '12' }); // prettier-ignore
    model.series.prepend(['9.945', '9.95'].map((close, i) => bar(i, close)) as Parameters<typeof model.series.prepend>[0]);
    model.view.width = 700;
    model.view.height = 400;
    expect(chartCsv(model).split('\r\n')).to.deep.equal([
      'time,open,high,low,close,volume',
      '2026-03-02T09:00:00.000Z,9.940,9.990,9.900,9.945,12',
      '2026-03-02T09:01:00.000Z,9.940,9.990,9.900,9.950,12',
    ]);
  });
});
