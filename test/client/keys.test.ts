import { expect } from 'chai';
import fc from 'fast-check';
import { KeyRouter, chordOf, type Command, type KeyPress } from '../../src/client/keys.ts';

const press = (chord: string, more: Partial<KeyPress> = {}): KeyPress => ({ chord, repeat: false, caret: false, ...more });
const chord = (key: string, ...held: ('ctrl' | 'alt' | 'meta' | 'shift')[]): string =>
  chordOf({ key, ctrl: held.includes('ctrl'), alt: held.includes('alt'), meta: held.includes('meta'), shift: held.includes('shift') });

describe('a key', () => {
  const cases: [string, string][] = [
    [chord('Delete'), 'Delete'],
    [chord('F8', 'shift'), 'Shift+F8'],
    [chord('z', 'ctrl'), 'Ctrl+Z'],
    [chord('z', 'meta'), 'Ctrl+Z'],
    [chord('Enter', 'ctrl', 'shift'), 'Ctrl+Shift+Enter'],
    [chord(' '), 'Space'],
    // A sign is a sign, whichever keys a keyboard needs for it.
    [chord('?', 'shift'), '?'],
    [chord('+', 'shift'), '+'],
    [chord('P', 'shift'), 'Shift+p'],
  ];
  for (const [made, wanted] of cases) it(`is written ${wanted}`, () => expect(made).to.equal(wanted));
});

describe('the keys', () => {
  let ran: string[];
  const command = (keys: string[], name: string, more: Partial<Command> = {}): Command => ({ keys, words: name, run: () => ran.push(name), ...more });
  beforeEach(() => (ran = []));

  it('go to the newest owner that has them, then to those below', () => {
    const router = new KeyRouter();
    let active = true;
    router.own({ name: 'frame', has: () => true, commands: () => [command(['F8'], 'frame F8'), command(['/'], 'find')] });
    router.own({ name: 'pane', has: () => active, commands: () => [command(['F8'], 'pane F8'), command(['Delete'], 'cancel')] });
    expect([router.route(press('F8')), router.route(press('/')), router.route(press('x'))]).to.deep.equal(['ran', 'ran', 'nobody']);
    active = false;
    expect([router.route(press('F8')), router.route(press('Delete'))]).to.deep.equal(['ran', 'nobody']);
    expect(ran).to.deep.equal(['pane F8', 'find', 'frame F8']);
  });
  it('go no further than to one that has them alone, until it gives them back', () => {
    const router = new KeyRouter();
    router.own({ name: 'pane', has: () => true, commands: () => [command(['Delete'], 'cancel')] });
    const back = router.own({ name: 'help', has: () => true, alone: true, commands: () => [command(['Escape'], 'close')] });
    expect(router.route(press('Delete'))).to.equal('nobody');
    back();
    expect(router.route(press('Delete'))).to.equal('ran');
  });
  it('that are held repeat only what walks', () => {
    const router = new KeyRouter();
    router.own({ name: 'pane', has: () => true, commands: () => [command(['Delete'], 'cancel'), command(['ArrowDown'], 'walk', { repeats: true })] });
    expect([router.route(press('Delete', { repeat: true })), router.route(press('ArrowDown', { repeat: true }))]).to.deep.equal(['refused', 'ran']);
    expect(ran).to.deep.equal(['walk']);
  });
  it('that can’t do what they are for say why', () => {
    const router = new KeyRouter();
    const said: string[] = [];
    router.own({
      name: 'pane',
      has: () => true,
      refuse: (words) => said.push(words),
      commands: () => [command(['Delete'], 'cancel', { cannot: () => 'nothing is ringed' })],
    });
    expect([router.route(press('Delete')), said, ran]).to.deep.equal(['refused', ['nothing is ringed'], []]);
  });
  it('write where the caret is: no plain key, none that moves the caret or takes text back runs anything', () => {
    const router = new KeyRouter();
    const all = ['a', 'Shift+a', '?', 'Delete', 'ArrowDown', 'Home', 'Enter', 'Escape', 'Ctrl+Z', 'Ctrl+V', 'F8', 'Shift+F9', 'Ctrl+Shift+Enter'];
    router.own({ name: 'frame', has: () => true, commands: () => all.map((one) => command([one], one)) });
    for (const one of all) router.route(press(one, { caret: true }));
    expect(ran).to.deep.equal(['F8', 'Shift+F9', 'Ctrl+Shift+Enter']);
  });
  it('run one command at most for a press, whoever comes and goes', () => {
    const step = fc.oneof(
      fc.record({ do: fc.constant('own' as const), chord: fc.constantFrom('a', 'b'), alone: fc.boolean() }),
      fc.record({ do: fc.constant('back' as const), which: fc.nat(10) }),
      fc.record({ do: fc.constant('press' as const), chord: fc.constantFrom('a', 'b', 'c') }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
        const router = new KeyRouter();
        const owners: { chord: string; alone: boolean; back: () => void; name: string }[] = [];
        steps.forEach((one, i) => {
          if (one.do === 'own') {
            const owner = { name: `${i}`, has: () => true, commands: () => [command([one.chord], `${i}`)], ...(one.alone ? { alone: true as const } : {}) };
            owners.push({ chord: one.chord, alone: one.alone, back: router.own(owner), name: `${i}` });
          } else if (one.do === 'back') owners.splice(one.which, 1).forEach(({ back }) => back());
          else {
            ran = [];
            router.route(press(one.chord));
            const wall = owners.findLastIndex(({ alone }) => alone);
            const wanted = owners.slice(Math.max(0, wall)).findLast(({ chord: own }) => own === one.chord)?.name;
            expect(ran).to.deep.equal(wanted === undefined ? [] : [wanted]);
          }
        });
      }),
    );
  });

  it('tells a key to each part of one thing: the first that can does it, else the first says why not', () => {
    const router = new KeyRouter();
    const told: string[] = [];
    const part = (words: string, why: string | null) =>
      router.own({
        name: 'Chart',
        has: () => true,
        commands: () => [{ keys: ['Delete'], words, cannot: () => why, run: () => told.push(words) }],
        refuse: (reason) => told.push(`refused: ${reason}`),
      });
    router.own({ name: 'Everywhere', has: () => true, commands: () => [{ keys: ['Delete'], words: 'frame', run: () => told.push('frame') }] });
    const drop = part('order', null);
    part('drawing', 'nothing is ringed');
    const press = { chord: 'Delete', repeat: false, caret: false };
    expect([router.route(press), told.pop()]).to.deep.equal(['ran', 'order']);
    drop();
    part('order', 'no order is ringed');
    expect([router.route(press), told.pop()], 'never what is below').to.deep.equal(['refused', 'refused: no order is ringed']);
  });

  it('are known of panes that have none now, so that what they do can be done by name', () => {
    const router = new KeyRouter();
    let active = 'c1';
    const shown = ['n1'];
    for (const pane of ['c1', 'l1', 'n1'])
      router.own({ name: pane, pane, inSight: () => shown.includes(pane), has: () => active === pane, commands: () => [] });
    router.own({ name: 'Everywhere', has: () => true, commands: () => [] });
    expect(router.panesBehind().map(({ pane }) => pane)).to.deep.equal(['n1', 'l1']);
    active = '';
    expect(router.panesBehind().map(({ pane }) => pane)).to.deep.equal(['n1', 'c1', 'l1']);
  });
});
