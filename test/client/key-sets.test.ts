import { expect } from 'chai';
import fc from 'fast-check';
import type { BoundKey } from '../../src/client/bindings.ts';
import { keyChanges, keySetOf, readKeySet } from '../../src/client/key-sets.ts';

const key = (name: string, phrase: string | null, command: string | null = null, sets: string[] = []): BoundKey => ({ key: name, phrase, command, sets });
const SET = [key('Space B', 'buy 100 at bid'), key('F13', null, 'all-keys', ['Kelp desk'])];

describe('a set of keys as a file', () => {
  it('is read as it was written', () => {
    expect(readKeySet(JSON.stringify(keySetOf(SET), null, 2))).to.deep.equal({ ok: true, value: SET });
    expect(readKeySet('{"items":[{"key":"F13","phrase":"close"}]}')).to.deep.equal({ ok: true, value: [key('F13', 'close')] });
  });

  const wrong: readonly [text: string, why: RegExp][] = [
    ['', /no JSON/],
    ['{"items":[', /no JSON/],
    ['null', /list of items was expected/],
    ['[]', /list of items was expected/],
    ['{"items":{}}', /list of items was expected/],
    ['{"format":2,"items":[]}', /format 2; this Kavix reads format 1\. A newer Kavix wrote it/],
    ['{"format":"a","items":[]}', /its format is "a", and 1 was expected/],
    ['{"items":[null]}', /^line 1, column 11: key 1 of the set has no name/],
    ['{"items":[{"key":"F13","phrase":"close"},{"key":5}]}', /^line 1, column 42: key 2 of the set has no name/],
    ['{"items":[{"key":"F13"}]}', /F13, does nothing/],
    ['{"items":[{"key":"F13","phrase":5}]}', /F13, does nothing/],
    ['{"items":[{"key":"F13","phrase":"close","command":{}}]}', /F13, does nothing/],
    ['{"items":[{"key":"F13","phrase":"close","sets":"all"}]}', /names no workspaces/],
    ['{"items":[{"key":"F13","phrase":"close","sets":[1]}]}', /names no workspaces/],
    [JSON.stringify({ items: Array.from({ length: 501 }, () => SET[0]) }), /at most 500 keys; this has 501/],
  ];
  for (const [text, why] of wrong)
    it(`is refused whole: ${text.slice(0, 60) || 'nothing'}`, () => {
      const found = readKeySet(text);
      expect(found.ok ? 'read' : found.refusal).to.match(why);
    });

  it('never throws, whatever is given', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc.json(),
          fc.jsonValue().map((items) => JSON.stringify({ items })),
        ),
        (text) => void readKeySet(text),
      ),
    );
  });

  it('says what it would change before anything does', () => {
    expect(keyChanges(SET, SET)).to.equal('2 keys: the same as now. Nothing counts until it is saved.');
    expect(keyChanges(SET, [key('space b', 'buy 200 at bid'), key('F14', 'close')])).to.equal(
      '2 keys: 1 new (F14); 1 changed (Space B); 1 gone (F13). Nothing counts until it is saved.',
    );
    expect(keyChanges([], SET)).to.equal('2 keys: 2 new (Space B, F13). Nothing counts until it is saved.');
  });
});
