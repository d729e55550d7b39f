import { expect } from 'chai';
import { closeSync, mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ACCOUNTS } from '../../demo/accounts.ts';
import { demoWorld } from '../../demo/universe.ts';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { parseTape } from '../../src/core/formats/index.ts';
import { formatPrice, type Instrument } from '../../src/core/instrument/index.ts';
import { DemoSource } from '../../src/venue/demo-market/demo-source.ts';
import { Exchange } from '../../src/venue/exchange.ts';
import { Recorder } from '../../src/venue/recorder.ts';
import { TapeFile } from '../../src/venue/tape-file.ts';
import { TapeSource } from '../../src/venue/tape-source.ts';
import { dropFolder, newFolder } from '../support/server.ts';
import { at } from '../support/world.ts';

const world = demoWorld(1);
const instruments = new Map(world.profiles.map(({ instrument }) => [instrument.id, instrument]));
const onTape = new Map(FIXED_INSTRUMENTS.map((instrument) => [instrument.id, instrument]));
const AT = [...Array(8).keys()].map((n) => at(`09:0${n}:30.000`));

/** What everybody sees of the markets. */
const seen = (exchange: Exchange): unknown =>
  [...onTape.keys()].map((id) => {
    const { state, bid, ask, priceLimits } = exchange.listing(id).quote(exchange.time);
    return { id, state, bid, ask, priceLimits, depth: exchange.depth(id, 10) };
  });
const withoutOrders = (of: unknown): unknown => JSON.parse(JSON.stringify(of, (key, value: unknown) => (key === 'orders' ? undefined : value))) as unknown;
const prints = (exchange: Exchange, instrument: Instrument): string[] =>
  exchange.listing(instrument.id).prints.map(({ time, side, price, quantity }) => `${time} ${side} ${formatPrice(instrument, price)} ${quantity}`);

describe('a market that is recorded', () => {
  const lines: string[] = [];
  let live: Exchange;
  const looks: unknown[] = [];
  before(() => {
    const recorder = new Recorder(onTape, (line) => lines.push(line));
    live = new Exchange(instruments, ACCOUNTS, new DemoSource(world, 1), 0, null, 0, [], recorder);
    for (const time of AT) {
      live.run(time);
      looks.push(withoutOrders(seen(live)));
      // What nobody looks at any more stays awake.
      live.watch([], []);
    }
  });

  it('is a tape, and the same market again at any time of it', () => {
    const read = parseTape(`${lines.join('\n')}\n`, onTape);
    if (!read.ok) throw new Error(JSON.stringify(read.refusal));
    const replayed = new Exchange(onTape, ACCOUNTS, new TapeSource(read.value, onTape), 0, null, 0);
    AT.forEach((time, i) => {
      replayed.run(time);
      expect(withoutOrders(seen(replayed)), new Date(time).toISOString()).to.deep.equal(looks[i]);
    });
    const traded = FIXED_INSTRUMENTS.filter((instrument) => prints(live, instrument).length > 0);
    expect(traded.length).to.be.at.least(8);
    for (const instrument of traded) {
      const again = prints(replayed, instrument);
      // Prints of before the recording began are not on it.
      expect(prints(live, instrument).slice(-again.length)).to.deep.equal(again);
    }
  });

  it('has a headline of what no tape holds as one of the whole market', () => {
    const own: string[] = [];
    const recorder = new Recorder(onTape, (line) => own.push(line));
    recorder.happened({ time: at('09:00:00.000'), instrument: 'NOSUCH.HALM', news: 'Rail strike, "called off"' });
    recorder.happened({ time: at('09:00:00.000'), instrument: 'NOSUCH.HALM', market: { event: 'state', state: 'open' } });
    expect(own.slice(1)).to.deep.equal(['2026-03-02T09:00:00.000Z,,news,,,,"Rail strike, ""called off"""']);
    const read = parseTape(own.join('\r\n'), onTape);
    expect(read.ok && read.value).to.deep.equal([{ time: at('09:00:00.000'), instrument: null, news: 'Rail strike, "called off"' }]);
  });

  it('goes on where its file can’t be written any more, and says so once', () => {
    const folder = newFolder();
    mkdirSync(folder, { recursive: true });
    const ends: string[] = [];
    const tape = new TapeFile(join(folder, 'tape.csv'), ({ message }) => ends.push(message));
    tape.write('time');
    tape.flush();
    closeSync((tape as unknown as { handle: number }).handle);
    for (let i = 0; i < 3; i++) {
      tape.write('lost');
      tape.flush();
    }
    expect(ends).to.have.length(1);
    expect(readFileSync(join(folder, 'tape.csv'), 'utf8')).to.equal('time\n');
    dropFolder(folder);
  });
});
