import { expect } from 'chai';
import { PALETTES, STUDY_INKS, type Theme, type Token } from '../../src/views/theme/palette.ts';

/** Relative luminance and contrast ratio (WCAG 2.2, 1.4.3). */
function contrast(a: string, b: string): number {
  const light = (hex: string): number => {
    const [r = 0, g = 0, bl = 0] = [1, 3, 5]
      .map((at) => parseInt(hex.slice(at, at + 2), 16) / 255)
      .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
    return 0.2126 * r + 0.7152 * g + 0.0722 * bl;
  };
  const [low = 0, high = 0] = [light(a), light(b)].sort((x, y) => x - y);
  return (high + 0.05) / (low + 0.05);
}

/** `over` laid at a share on `under`. */
function wash(over: string, share: number, under: string): string {
  const mixed = [1, 3, 5].map((at) => Math.round(parseInt(over.slice(at, at + 2), 16) * share + parseInt(under.slice(at, at + 2), 16) * (1 - share)));
  return `#${mixed.map((part) => part.toString(16).padStart(2, '0')).join('')}`;
}

const TEXT: [Token, Token[]][] = [
  ['ink', ['ground', 'well', 'pane', 'raised']],
  ['quiet', ['ground', 'well', 'pane', 'raised']],
  ['weed', ['ground', 'well', 'pane', 'raised']],
  ['copper', ['ground', 'well', 'pane', 'raised']],
  ['letters', ['weed', 'copper', 'heather', 'lamp']],
  ['brass-letters', ['brass-plate']],
  ['crimson-letters', ['crimson']],
];
const LINES: [Token, Token[]][] = [
  ['line', ['well', 'pane', 'raised']],
  ['brass-line', ['well']],
  ['lamp', ['ground', 'pane']],
  ['weed', ['well']],
  ['copper', ['well']],
];

for (const theme of ['night', 'day'] as const satisfies Theme[])
  describe(`the ${theme} inks of studies`, () => {
    for (const [name, ink] of Object.entries(STUDY_INKS[theme]))
      it(`can be seen on the plot: ${name}`, () => expect(contrast(ink, PALETTES[theme].well)).to.be.at.least(3));
  });

for (const [theme, palette] of Object.entries(PALETTES))
  describe(`the ${theme} palette`, () => {
    for (const [front, backs] of TEXT)
      for (const back of backs) it(`can be read: ${front} on ${back}`, () => expect(contrast(palette[front], palette[back])).to.be.at.least(4.5));
    for (const [front, backs] of LINES)
      for (const back of backs) it(`can be seen: ${front} on ${back}`, () => expect(contrast(palette[front], palette[back])).to.be.at.least(3));
    for (const side of ['weed', 'copper'] as const) {
      it(`can be read over depth: ink on 20 % ${side}`, () => expect(contrast(palette.ink, wash(palette[side], 0.2, palette.pane))).to.be.at.least(4.5));
      for (const ground of ['well', 'pane'] as const)
        it(`can be read over a flash: ink on 14 % ${side} over ${ground}`, () =>
          expect(contrast(palette.ink, wash(palette[side], 0.14, palette[ground]))).to.be.at.least(4.5));
    }
  });
