import { expect } from 'chai';
import { beginsAt, joined, readBack } from '../../src/client/activity-record.ts';

const at = (time: string): number => Date.parse(time);
const entry = (seq: number, time = `2026-03-02T10:00:00.${String(seq % 1000).padStart(3, '0')}Z`) => ({ seq, time }) as never;
const seqs = (entries: readonly { seq: number }[]): number[] => entries.map(({ seq }) => seq);

describe('how far back the record is looked at', () => {
  it('is what the window has, a trading day, seven of them, or all', () => {
    const now = at('2026-03-11T15:00:00.000Z');
    expect(beginsAt('newest', now)).to.equal(null);
    expect(beginsAt('today', now)).to.equal(at('2026-03-11T00:00:00.000Z'));
    expect(beginsAt('week', now)).to.equal(at('2026-03-05T00:00:00.000Z'));
    expect(beginsAt('all', now)).to.equal(-Infinity);
    // A Sunday belongs to the Friday before it.
    expect(beginsAt('today', at('2026-03-15T12:00:00.000Z'))).to.equal(at('2026-03-13T00:00:00.000Z'));
  });
});

describe('the record read back', () => {
  const real = globalThis.fetch;
  let asked: string[] = [];
  let all: { seq: number; time: string }[] = [];
  let fails = false;
  beforeEach(() => {
    asked = [];
    fails = false;
    all = Array.from({ length: 2500 }, (_, i) => entry(i + 1, new Date(at('2026-03-02T00:00:00.000Z') + i * 60_000).toISOString()));
    globalThis.fetch = ((address: string) => {
      asked.push(address);
      if (fails) return Promise.reject(new TypeError('no connection'));
      const query = new URL(address, 'http://kavix').searchParams;
      const older = all.filter(({ seq }) => seq < Number(query.get('before')));
      return Promise.resolve(new Response(JSON.stringify({ items: older.slice(-Number(query.get('limit'))), before: null, after: '' })));
    }) as typeof fetch;
  });
  after(() => (globalThis.fetch = real));
  const goesOn = (): boolean => true;

  it('comes a page at a time, oldest first, each once, to its beginning', async () => {
    const { entries, more } = await readBack(2401, -Infinity, goesOn);
    expect([entries.length, more, asked.length]).to.deep.equal([2400, false, 3]);
    expect(seqs(entries)).to.deep.equal(Array.from({ length: 2400 }, (_, i) => i + 1));
  });

  it('goes no further back than it is asked to', async () => {
    const since = all[1999]?.time ?? '';
    const { entries, more } = await readBack(2501, at(since), goesOn);
    expect([entries[0], entries.length, more, asked.length]).to.deep.equal([all[1999], 501, false, 1]);
  });

  it('of nothing is nothing, and of an end that is a whole page long too', async () => {
    expect(await readBack(1, -Infinity, goesOn)).to.deep.equal({ entries: [], more: false });
    expect((await readBack(1001, -Infinity, goesOn)).entries.length).to.equal(1000);
  });

  it('says that it is not whole where an answer fails, or nobody waits for it any more', async () => {
    let pages = 0;
    const two = await readBack(2501, -Infinity, () => pages++ < 2);
    expect([two.entries.length, two.more]).to.deep.equal([2000, true]);
    fails = true;
    expect(await readBack(2501, -Infinity, goesOn)).to.deep.equal({ entries: [], more: true });
  });

  it('goes on with what comes, whatever the window lets go of', () => {
    const before = [1, 2, 3].map((seq) => entry(seq));
    expect(
      seqs(
        joined(
          before,
          [2, 3, 4].map((seq) => entry(seq)),
        ),
      ),
    ).to.deep.equal([1, 2, 3, 4]);
    expect(
      seqs(
        joined(
          before,
          [7, 8].map((seq) => entry(seq)),
        ),
      ),
    ).to.deep.equal([1, 2, 3, 7, 8]);
    const same = joined(
      before,
      [2, 3].map((seq) => entry(seq)),
    );
    expect(same).to.equal(before);
    expect(
      seqs(
        joined(
          [],
          [5].map((seq) => entry(seq)),
        ),
      ),
    ).to.deep.equal([5]);
  });
});
