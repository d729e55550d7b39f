import { expect } from 'chai';
import fc from 'fast-check';
import { demoWorld } from '../../demo/universe.ts';
import { asPrice } from '../../src/core/instrument/index.ts';
import { parseDay } from '../../src/core/market/index.ts';
import { applicationMoved, tiedUp, type Application } from '../../src/core/portfolio/index.ts';
import { History } from '../../src/venue/demo-market/history.ts';
import { allotted, asApplied, asTold, takenBack } from '../../src/venue/new-issues.ts';

const world = demoWorld(1);
const { issues, profiles } = world;
const [issue] = issues as [(typeof issues)[number]];
const all = new Map(issues.map((one) => [one.id, one]));
const instrument = (profiles.find((one) => one.instrument.id === issue.id) as (typeof profiles)[number]).instrument;

const asked = (over: Partial<Application> = {}): Application => ({
  id: 'MAIN-n1',
  clientRequestId: 'one',
  account: 'MAIN',
  issue: issue.id,
  lot: issue.lot,
  lots: 10,
  price: issue.high,
  first: { lots: 10, price: issue.high },
  revision: 1,
  state: 'requested',
  allottedLots: null,
  issuePrice: null,
  requestedAt: 0,
  changedAt: 0,
  ...over,
});
const open = issue.closesAt - 1;

describe('new issues at the broker', () => {
  it('keep what is not told yet to themselves until the shares are allotted', () => {
    expect(asTold(issue, issue.allottedAt - 1)).to.not.have.any.keys('outcome');
    expect([asTold(issue, issue.allottedAt - 1).price, asTold(issue, issue.allottedAt).price]).to.deep.equal([null, issue.outcome.price]);
  });

  it('take an application once, its changes in order, and none from the close on', () => {
    const first = asApplied([], asked(), all, open) as Application;
    expect(asApplied([first], asked(), all, open), 'told again').to.equal(null);
    const changed = asApplied([first], asked({ lots: 3, revision: 2 }), all, open) as Application;
    expect([changed.lots, changed.requestedAt, changed.changedAt]).to.deep.equal([3, first.requestedAt, open]);
    expect(asApplied([changed], asked({ lots: 5 }), all, open), 'an older one that comes later').to.equal(null);
    expect(asApplied([], asked(), all, issue.closesAt)?.state).to.equal('canceled');
    expect(asApplied([first], asked({ lots: 3, revision: 2 }), all, issue.closesAt)).to.deep.equal({ ...first, revision: 2 });
    expect(takenBack([first], first.id, all, issue.closesAt)).to.equal(null);
    expect(takenBack([first], first.id, all, open)?.state).to.equal('canceled');
  });

  it('allot nothing below the issue price, and at or above it the same lots every time', () => {
    const { price, share } = issue.outcome;
    fc.assert(
      fc.property(fc.integer({ min: issue.low, max: issue.high }), fc.integer({ min: 1, max: issue.mostLots }), fc.string(), (at, lots, account) => {
        const application = asked({ price: asPrice(at), lots, account });
        expect(allotted(application, issue, issue.allottedAt - 1)).to.equal(null);
        const got = allotted(application, issue, issue.allottedAt) as Application;
        expect(got).to.deep.equal(allotted(application, issue, issue.allottedAt + 1));
        expect(got.allottedLots).to.be.within(0, at < price ? 0 : lots);
        expect(got.state).to.equal(got.allottedLots === 0 ? 'unsuccessful' : 'allotted');
        expect(allotted(got, issue, issue.allottedAt), 'decided once').to.equal(null);
      }),
    );
    const drawn = Array.from({ length: 200 }, (_, i) => allotted(asked({ lots: 20, account: `A${i}` }), issue, issue.allottedAt)?.allottedLots ?? 0);
    expect(drawn.reduce((sum, one) => sum + one, 0) / 4000).to.be.closeTo(share, 0.05);
  });

  it('move cash so that in the end nothing of an application is tied up', () => {
    const steps = fc.array(fc.record({ lots: fc.integer({ min: 1, max: 20 }), price: fc.integer({ min: issue.low, max: issue.high }) }), {
      minLength: 1,
      maxLength: 6,
    });
    fc.assert(
      fc.property(steps, fc.boolean(), (changes, back) => {
        let before: Application | null = null;
        let moved = 0n;
        const states = changes.map(({ lots, price }, i) => asked({ lots, price: asPrice(price), revision: i + 1 }));
        for (const one of states) {
          moved += applicationMoved(instrument, before, one);
          expect(moved + tiedUp(instrument, one)).to.equal(0n);
          before = one;
        }
        const last = states[states.length - 1] as Application;
        moved += applicationMoved(instrument, before, back ? { ...last, state: 'canceled' } : (allotted(last, issue, issue.allottedAt) as Application));
        expect(moved).to.equal(0n);
      }),
    );
  });

  it('have histories that begin on the day they are listed', () => {
    const history = new History(world, 1);
    for (const one of issues) {
      expect(history.firstDay(one.id)).to.equal(parseDay(one.listsOn));
      expect(one.low <= one.outcome.price && one.outcome.price <= one.high && one.opensAt < one.closesAt && one.closesAt < one.allottedAt).to.equal(true);
    }
  });
});
