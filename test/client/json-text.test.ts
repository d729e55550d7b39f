import { expect } from 'chai';
import fc from 'fast-check';
import { readJson, readShaped, wrongWords } from '../../src/client/json-text.ts';

const TEXT = `{
  "name": "Two-step",
  "steps": [
    { "share": "50" },
    { "share": 50, "a/b": [true, {"~": null}] }
  ]
}`;

const read = (text: string) => {
  const json = readJson(text);
  if (!json.ok) throw new Error(json.refusal);
  return json.value;
};

describe('JSON from a file', () => {
  it('is read with the place of each of its parts', () => {
    const json = read(TEXT);
    expect(json.value).to.deep.equal(JSON.parse(TEXT));
    const places: readonly [string, string][] = [
      ['', 'line 1, column 1'],
      ['/name', 'line 2, column 11'],
      ['/steps/1/share', 'line 5, column 16'],
      ['/steps/1/a~1b/1/~0', 'line 5, column 40'],
    ];
    for (const [pointer, place] of places) expect(json.placeOf(pointer), pointer).to.equal(place);
  });

  it('says the nearest place of what is not there', () => {
    const json = read(TEXT);
    expect([json.placeOf('/heldBy'), json.placeOf('/steps/7/share'), json.placeOf('/steps/0/stop')]).to.deep.equal([
      'line 1, column 1',
      'line 3, column 12',
      'line 4, column 5',
    ]);
  });

  const torn: readonly [text: string, why: string][] = [
    ['', 'line 1, column 1: value expected'],
    ['{\n  "a": 1,\n}', 'line 3, column 1: property name expected'],
    ['{"a" 1}', 'line 1, column 6: colon expected'],
    ['[1, 2', 'line 1, column 6: close bracket expected'],
    ['[1] x', 'line 1, column 5: invalid symbol'],
    ['// no\n1', 'line 1, column 1: invalid comment token'],
  ];
  for (const [text, why] of torn)
    it(`says where it is torn: ${JSON.stringify(text)}`, () => {
      expect(readJson(text)).to.deep.equal({ ok: false, refusal: `This is no JSON: ${why}.` });
    });

  it('is taken where the language takes it, and nowhere else', () => {
    const native = (text: string): unknown => {
      try {
        return { value: JSON.parse(text) as unknown };
      } catch {
        return 'none';
      }
    };
    const piece = fc.constantFrom('{', '}', '[', ']', ',', ':', '"a"', '"', '1', '-', '.5', 'e3', 'null', 'tru', ' ', '\n', '/**/', '\\u12', '\u0001');
    const text = fc.oneof(
      fc.json(),
      fc.string(),
      fc.array(piece, { maxLength: 8 }).map((pieces) => pieces.join('')),
    );
    fc.assert(
      fc.property(text, (one) => {
        const json = readJson(one);
        expect(json.ok ? { value: json.value.value } : 'none').to.deep.equal(native(one));
      }),
      { numRuns: 2000 },
    );
  });

  it('is refused whole for its shape, the first few problems with their places', async () => {
    const wrong = ['/name', '/steps/0', '/steps/1/share', '/steps'].map((path) => ({ path, message: 'is wrong' }));
    expect(wrongWords(read(TEXT), wrong)).to.equal(
      'line 2, column 11: /name is wrong; line 4, column 5: /steps/0 is wrong; line 5, column 16: /steps/1/share is wrong; and 1 more.',
    );
    const asked: unknown[] = [];
    const shaped = await readShaped(TEXT, (body) => {
      asked.push(body);
      return Promise.resolve([{ path: '', message: 'must be a list' }]);
    });
    expect(shaped).to.deep.equal({ ok: false, refusal: 'line 1, column 1: it must be a list.' });
    expect(asked).to.deep.equal([JSON.parse(TEXT)]);
    expect(await readShaped('[1]', () => Promise.resolve([]))).to.deep.equal({ ok: true, value: [1] });
  });
});
