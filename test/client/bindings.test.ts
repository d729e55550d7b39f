import { expect } from 'chai';
import { boundChord, isInForce, type BoundKey } from '../../src/client/bindings.ts';
import { clockText, dayInWords } from '../../src/kit/clock.ts';
import { KEY_ROWS } from '../../src/client/key-grid.ts';

describe('a bound key', () => {
  it('is the order layer’s with Space before it, else a key of its own', () => {
    const chords: [key: string, layer: boolean, chord: string][] = [
      ['Space B', true, 'b'],
      ['Space Shift B', true, 'Shift+b'],
      ['Space Ctrl B', true, 'Ctrl+B'],
      ['F13', false, 'F13'],
      ['Ctrl Shift F5', false, 'Ctrl+Shift+F5'],
      ['Numpad 7', false, 'Numpad 7'],
      ['Ctrl Numpad +', false, 'Ctrl+Numpad +'],
      ['Space Numpad 0', true, 'Numpad 0'],
      ['Space', false, 'Space'],
    ];
    for (const [key, layer, chord] of chords) expect(boundChord(key), key).to.deep.equal({ layer, chord });
  });

  it('has a chord that no other key has', () => {
    const keys = Object.values(KEY_ROWS).flatMap((row) => row.flatMap((key) => ['', 'Space ', 'Space Shift ', 'Space Ctrl '].map((held) => held + key)));
    const chords = keys.map((key) => JSON.stringify(boundChord(key)));
    expect(new Set(chords).size).to.equal(new Set(keys).size);
  });

  it('of no set is in force everywhere, of one in its workspaces alone', () => {
    const key = (sets: string[]): BoundKey => ({ key: 'F13', phrase: null, command: null, sets });
    expect([isInForce(key([]), 'Any'), isInForce(key(['Morning']), 'Morning'), isInForce(key(['Morning']), 'Evening')]).to.deep.equal([true, true, false]);
  });
});

describe('a clock', () => {
  it('shows a moment in the zone that is asked for, over the change of its offset', () => {
    const zone = 'Europe/London';
    // The zone of an exchange in the west of Europe: an hour is left out on 29 March 2026 at one.
    expect(clockText(zone, '2026-03-29T00:59:59.000Z')).to.equal('00:59:59');
    expect(clockText(zone, '2026-03-29T01:00:00.000Z')).to.equal('02:00:00');
    expect(clockText(zone, Date.parse('2026-10-25T00:30:00.000Z'), 'HH:mm')).to.equal('01:30');
    expect(clockText(zone, Date.parse('2026-10-25T01:30:00.000Z'), 'HH:mm')).to.equal('01:30');
    expect(clockText('UTC', '2026-12-31T23:59:59.999Z', 'yyyy-MM-dd HH:mm')).to.equal('2026-12-31 23:59');
  });

  it('says a day in words', () => {
    expect(dayInWords(Date.parse('2026-03-02T00:00:00.000Z') / 86_400_000)).to.equal('Monday 2 March');
  });
});
