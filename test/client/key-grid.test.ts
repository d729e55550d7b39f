import { expect } from 'chai';
import { bindingProblem, keyName } from '../../src/core/language/index.ts';
import { averageSeconds, beginDrill, pressInDrill } from '../../src/client/drill.ts';
import { KEY_ROWS, gridOf } from '../../src/client/key-grid.ts';

describe('a grid of keys', () => {
  const wish = { sides: ['buy', 'sell'], sizes: ['100', '300'], prices: ['at bid', 'at ask + 1 tick'], keys: KEY_ROWS['top row'], held: ['Space'] } as const;

  it('gives each side, price and size a key, in order, and says how many are left without', () => {
    const grid = gridOf(wish);
    expect(grid.without).to.equal(0);
    expect(grid.keys.map(({ key, phrase }) => `${key}: ${phrase}`)).to.deep.equal([
      'Space Q: buy 100 at bid',
      'Space W: buy 300 at bid',
      'Space E: buy 100 at ask + 1 tick',
      'Space R: buy 300 at ask + 1 tick',
      'Space T: sell 100 at bid',
      'Space Y: sell 300 at bid',
      'Space U: sell 100 at ask + 1 tick',
      'Space I: sell 300 at ask + 1 tick',
    ]);
    expect(gridOf({ ...wish, sizes: ['1', '2', '3', '4'] }).without).to.equal(6);
  });

  it('has rows whose every key can send, in the layer or by itself', () => {
    for (const [row, keys] of Object.entries(KEY_ROWS))
      for (const name of keys) {
        const key = row === 'number pad' || row === 'F13 to F24' ? name : `Space ${name}`;
        expect(keyName(key), key).to.equal(key);
        expect(bindingProblem({ key, phrase: 'buy 100 at bid', command: null, sets: [] }), key).to.equal(null);
      }
  });
});

describe('a drill of keys', () => {
  const bound = (key: string, phrase: string | null) => ({ key, phrase, command: phrase === null ? 'x' : null, sets: [] });
  const keys = [bound('Space Q', 'buy 100 at bid'), bound('Space W', 'sell 100 at ask'), bound('F13', null)];
  const first = () => 0;

  it('asks for orders only, counts right and wrong presses and the time of the right ones', () => {
    expect(beginDrill([bound('F13', null)], 0, first)).to.equal(null);
    let drill = beginDrill(keys, 1000, first);
    if (!drill) throw new Error('no drill');
    expect([drill.asked.phrase, averageSeconds(drill)]).to.deep.equal(['buy 100 at bid', null]);
    drill = pressInDrill(drill, 'Space W', keys, 1500, first);
    expect([drill.wrong, drill.said, drill.asked.key]).to.deep.equal([1, 'Space W is “sell 100 at ask”', 'Space Q']);
    drill = pressInDrill(drill, 'Space Z', keys, 1600, first);
    expect(drill.said).to.equal('Space Z does nothing');
    drill = pressInDrill(drill, 'Space Q', keys, 3000, first);
    expect([drill.right, drill.wrong, averageSeconds(drill), drill.asked.key, drill.said]).to.deep.equal([1, 2, 2, 'Space W', 'right, 2.0 s']);
  });
});
