import { expect } from 'chai';
import fc from 'fast-check';
import { clearPlace, type Box } from '../../src/views/act/slip-place.ts';
import { readSizes } from '../../src/views/pages/settings/SizeKeys.tsx';

const ROOM: Box = { left: 0, top: 68, right: 1280, bottom: 800 };
const box = (left: number, top: number, right: number, bottom: number): Box => ({ left, top, right, bottom });
const meets = (a: Box, b: Box): boolean => a.left < b.right && a.right > b.left && a.top < b.bottom && a.bottom > b.top;

describe('the slip’s place', () => {
  const size = { width: 320, height: 390 };
  const at = (areas: readonly Box[], asked: Box): Box => {
    const { left, top } = clearPlace(size, ROOM, areas, asked);
    return box(left, top, left + size.width, top + size.height);
  };

  it('is beside the pane that asked, clear of its order areas and of all others', () => {
    const ladder = box(920, 130, 1272, 735);
    const strip = box(800, 130, 844, 480);
    expect(meets(at([ladder], ladder), ladder)).to.equal(false);
    const found = at([ladder, strip], ladder);
    expect([meets(found, ladder), meets(found, strip)]).to.deep.equal([false, false]);
  });

  it('is inside the window and below the rail, wherever it is asked for', () => {
    const edge = fc.integer({ min: -200, max: 1400 });
    fc.assert(
      fc.property(fc.array(fc.tuple(edge, edge, edge, edge), { minLength: 1, maxLength: 6 }), (given) => {
        const areas = given.map(([a, b, c, d]) => box(Math.min(a, c), Math.min(b, d), Math.max(a, c), Math.max(b, d)));
        const found = at(areas, areas[0] as Box);
        expect(found.left >= 0 && found.right <= ROOM.right && found.top >= ROOM.top && found.bottom <= ROOM.bottom).to.equal(true);
      }),
    );
  });
});

describe('sizes as they are typed', () => {
  const cases: readonly (readonly [text: string, then: ReturnType<typeof readSizes>])[] = [
    ['50 100', { sizes: ['50', '100'] }],
    ['0.1, 0.5;1', { sizes: ['0.1', '0.5', '1'] }],
    ['  ', { wrong: 'give 1 to 9 quantities' }],
    ['1 2 3 4 5 6 7 8 9 10', { wrong: '10 quantities; there are 9 keys' }],
    ['10 x', { wrong: 'x is not a quantity' }],
    ['0', { wrong: '0 is not a quantity' }],
    ['-5', { wrong: '-5 is not a quantity' }],
    ['10 10', { wrong: '10 is not larger than the one before it' }],
  ];
  for (const [text, then] of cases)
    it(`${JSON.stringify(text)} ${'wrong' in then ? 'is refused' : 'is taken'}`, () => expect(readSizes(text)).to.deep.equal(then));
});
