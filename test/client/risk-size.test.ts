import { expect } from 'chai';
import fc from 'fast-check';
import { planStop, sizeAtRisk, type EntryAtRisk } from '../../src/client/risk-size.ts';
import type { PhraseReading } from '../../src/client/phrase-acts.ts';
import type { ExitPlanText } from '../../src/core/exits/index.ts';
import { asPrice, asQuantity } from '../../src/core/instrument/index.ts';
import { readOrderPhrase } from '../../src/core/language/index.ts';
import { money, ratio } from '../../src/core/number/index.ts';
import { lossAt } from '../../src/core/portfolio/index.ts';
import { sceneOf } from '../../src/desk/phrases.ts';
import { presentAccount } from '../../src/desk/present/index.ts';
import { endWorlds, marketWorld } from '../support/scenes.ts';
import { instrument, type World } from '../support/world.ts';

const GANET = instrument('GANET.HALM');
const stop = (by: 'ticks' | 'percent' | 'money', value: string) => ({ by, value, order: 'market' }) as const;
const plan = (...steps: ExitPlanText['steps']): ExitPlanText => ({ heldBy: 'venue', onSizeChange: 'follow', onMissedLevel: 'fire', steps });
const whole = (ticks: string): ExitPlanText => plan({ share: '100', stop: stop('ticks', ticks) });

describe('where the stops of a plan would stand', () => {
  it('is so far from the entry, of several the one that loses most, on either side', () => {
    expect(planStop(whole('20'), GANET, 'buy', asPrice(4120))).to.equal(4100);
    expect(planStop(whole('20'), GANET, 'sell', asPrice(4120))).to.equal(4140);
    const two = plan({ share: '50', stop: stop('ticks', '10') }, { share: '50', stop: stop('percent', '1') });
    expect(planStop(two, GANET, 'buy', asPrice(4120))).to.equal(4079);
  });

  it('is not known where a part has no stop, or one that hangs on the quantity', () => {
    expect(planStop(plan({ share: '50', stop: stop('ticks', '10') }, { share: '50', target: stop('ticks', '10') }), GANET, 'buy', asPrice(4120))).to.equal(
      null,
    );
    expect(planStop(plan({ share: '100', stop: stop('money', '50') }), GANET, 'buy', asPrice(4120))).to.equal(null);
  });
});

describe('a size from risk', () => {
  afterEach(endWorlds);

  const sized = (world: World, given: Partial<EntryAtRisk>) => {
    const { desk } = world;
    const account = presentAccount(desk.account('MAIN'), desk.marks());
    const scene = sceneOf(desk, { accounts: ['MAIN'], plans: new Set() }, { account: 'MAIN', instrument: GANET.id });
    const read = (phrase: string): PhraseReading => {
      const found = readOrderPhrase(phrase, scene);
      return (found.ok ? { ok: true, ...found.value, error: null } : { ok: false, requests: [], error: found.error }) as unknown as PhraseReading;
    };
    return sizeAtRisk({ account, instrument: GANET, side: 'buy', entry: asPrice(4120), plan: whole('20'), amount: '100', left: '300.00', ...given }, read);
  };

  it('says its quantity, what it loses with fees, and what is left of the day then', async () => {
    const world = await marketWorld();
    // 0.20 a share and 0.10 % of 41.20 and of 41.00: 0.2822 each.
    expect(sized(world, {})).to.deep.equal({
      quantity: '354',
      words: 'loses 99.89 with fees at 41.00; 200.11 of 300.00 are left of the day then',
    });
    expect(sized(world, { side: 'sell' }).words).to.contain('at 41.40');
    expect(sized(world, { left: null }).words).to.equal('loses 99.89 with fees at 41.00');
    expect(sized(world, { left: '50.00' }).words).to.contain('that is more than the 50.00 left of the day');
  });

  it('says why there is none', async () => {
    const world = await marketWorld();
    for (const [given, words] of [
      [{ amount: null }, 'no money at risk was chosen yet'],
      [{ plan: null }, 'no exit plan on the plate'],
      [{ plan: plan({ share: '100', target: stop('ticks', '10') }) }, 'a part without a stop'],
      [{ amount: '0.10' }, 'that is too little'],
    ] as const) {
      const found = sized(world, given);
      expect(found.quantity).to.equal(null);
      expect(found.words).to.contain(words);
    }
  });

  it('risks at most the amount, and one more would risk more', async () => {
    const world = await marketWorld();
    const scene = sceneOf(world.desk, { accounts: ['MAIN'], plans: new Set() }, { account: 'MAIN', instrument: GANET.id });
    const { fee } = scene.accounts.get('MAIN') ?? expect.fail();
    fc.assert(
      fc.property(fc.integer({ min: 4000, max: 4300 }), fc.integer({ min: 1, max: 200 }), fc.integer({ min: 5, max: 5000 }), (entry, ticks, amount) => {
        const found = sized(world, { entry: asPrice(entry), plan: whole(String(ticks)), amount: String(amount) });
        const loses = (quantity: number) => lossAt(GANET, asQuantity(quantity), asPrice(entry), ratio(BigInt(entry - ticks)), fee);
        const most = money(String(amount));
        const quantity = Number(found.quantity ?? 0);
        expect(quantity === 0 || loses(quantity) <= most).to.equal(true);
        expect(loses(quantity + 1) > most).to.equal(true);
      }),
      { numRuns: 200 },
    );
  });
});
