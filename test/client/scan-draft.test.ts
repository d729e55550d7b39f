import { expect } from 'chai';
import { draftOf, savedBody, scheduleWords, takenDraft, textToTake, type ApiScan } from '../../src/views/panes/scanner/draft.ts';
import { bodyErrors } from '../../src/schemas/validate.ts';

// What an answer leaves out, its type does not know.
const SCAN = {
  name: 'Month end',
  notes: 'quiet ones',
  universe: { kinds: ['share'], venues: ['HALM'] },
  join: 'any',
  lines: [
    { phrase: 'change % > 2', on: true },
    { phrase: 'last > vwap', on: false },
  ],
  keep: false,
  schedule: { times: ['09:05', '15:30'], days: ['mon', 'fri'], venue: 'QUAY' },
  version: 3,
} as unknown as ApiScan;
const { version: _version, ...whole } = SCAN;

describe('a scan as it is made', () => {
  it('keeps all that was saved of it, the days and the venue of its schedule too', () => {
    expect({ name: SCAN.name, ...savedBody(draftOf(SCAN)) }).to.deep.equal(whole);
    expect(scheduleWords(draftOf(SCAN))).to.equal('at 09:05, 15:30 on mon, fri, QUAY');
    expect(scheduleWords({ ...draftOf(SCAN), times: [] })).to.equal('runs when asked');
  });

  it('is the same when it is taken along, but for being saved', () => {
    const taken = takenDraft(JSON.parse(textToTake(draftOf(SCAN))) as ApiScan);
    expect(taken.version).to.equal(0);
    expect({ name: taken.name, ...savedBody(taken) }).to.deep.equal(whole);
    expect(bodyErrors('PUT /api/scans/{name}', JSON.parse(textToTake(taken)))).to.deep.equal([]);
    expect(bodyErrors('PUT /api/scans/{name}', JSON.parse(textToTake({ ...taken, name: '' }))), 'without a name').to.deep.equal([]);
  });
});
