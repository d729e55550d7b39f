import { expect } from 'chai';
import { KEPT_LINES, linesBefore, rememberLine } from '../../src/client/bar-history.ts';

describe('the lines of the command bar', () => {
  it('belong to the pane they were typed in, newest first, each once', () => {
    for (const line of ['buy 100 at bid', 'chart', ' buy 100 at bid ', '   ']) rememberLine('one', line);
    rememberLine('two', 'ladder');
    rememberLine(null, 'brine');
    expect(linesBefore('one')).to.deep.equal(['buy 100 at bid', 'chart']);
    expect(linesBefore('two')).to.deep.equal(['ladder']);
    expect(linesBefore(null)).to.deep.equal(['brine']);
    expect(linesBefore('three')).to.deep.equal([]);
  });

  it('are the last few', () => {
    for (let i = 0; i < 20; i++) rememberLine('many', `size ${i}`);
    expect(linesBefore('many')).to.have.lengthOf(KEPT_LINES);
    expect(linesBefore('many')[0]).to.equal('size 19');
  });
});
