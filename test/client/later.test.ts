import { expect } from 'chai';

describe('a part that comes later', () => {
  const world = globalThis as { window?: EventTarget };
  let kit: typeof import('../../src/kit/later.ts');
  before(async () => {
    world.window = new EventTarget();
    // A window of its own: whether a hand has moved is known to the module.
    kit = (await import(`../../src/kit/later.ts?${Date.now()}`)) as typeof kit;
  });
  after(() => delete world.window);

  /** A part of which the first few tries fail. */
  const part = (failing: number) => {
    let asked = 0;
    const load = async (): Promise<number> => {
      const time = ++asked;
      await Promise.resolve();
      if (time <= failing) throw new Error('no link');
      return time;
    };
    return { of: kit.later(load), asked: () => asked };
  };

  it('is fetched once, however many ask', async () => {
    const { of, asked } = part(0);
    expect(of.$part.get()).to.equal(null);
    expect(await Promise.all([of.fetch(), of.fetch(), of.fetch()])).to.deep.equal([1, 1, 1]);
    expect([of.$part.get(), asked()]).to.deep.equal([1, 1]);
  });

  it('is null where it can’t be had, and asked for anew by the next', async () => {
    const { of } = part(1);
    expect(await of.fetch()).to.equal(null);
    expect(await of.fetch()).to.equal(2);
  });

  it('comes at the first sign of a hand, and one that is made afterwards at once', async () => {
    const [before, never] = [part(0), part(0)];
    await never.of.fetch();
    expect(before.asked()).to.equal(0);
    world.window?.dispatchEvent(new Event('keydown'));
    await before.of.fetch();
    expect([before.asked(), never.asked()]).to.deep.equal([1, 1]);
    const after = part(0);
    expect(after.asked()).to.equal(1);
  });
});
