import { expect } from 'chai';
import { drawSoon, paintNoMore, paintSoon } from '../../src/kit/pace.ts';

/** A screen whose clock and frames the test moves by hand. */
class Screen {
  private static begun = 0;
  private now = (Screen.begun += 1_000_000);
  private frames: (() => void)[] = [];
  private timers: { at: number; run: () => void }[] = [];
  private readonly own = { raf: globalThis.requestAnimationFrame, timeout: globalThis.setTimeout, now: performance.now.bind(performance) };

  constructor() {
    globalThis.requestAnimationFrame = (run) => this.frames.push(() => run(this.now));
    globalThis.setTimeout = ((run: () => void, wait: number) => this.timers.push({ at: this.now + wait, run })) as unknown as typeof setTimeout;
    performance.now = () => this.now;
  }

  /** Spends time as a slow paint does. */
  spend(ms: number): void {
    this.now += ms;
  }

  /** The next frame of the screen, 16 ms later. */
  frame(): void {
    this.now += 16;
    const due = this.timers.filter(({ at }) => at <= this.now);
    this.timers = this.timers.filter(({ at }) => at > this.now);
    for (const { run } of due) run();
    const frames = this.frames;
    this.frames = [];
    for (const run of frames) run();
  }

  frameOf(count: number): void {
    for (let i = 0; i < count; i++) this.frame();
  }

  close(): void {
    globalThis.requestAnimationFrame = this.own.raf;
    globalThis.setTimeout = this.own.timeout;
    performance.now = this.own.now;
  }
}

describe('the pace of painting', () => {
  let screen: Screen;
  let painted: string[];
  const cell = (name: string): object => ({ name });
  beforeEach(() => {
    screen = new Screen();
    painted = [];
    // What earlier tests began is over.
    screen.frameOf(20);
  });
  afterEach(() => {
    screen.frameOf(20);
    screen.close();
  });

  it('paints a change after a quiet moment in the very next frame, the newest state of each cell', () => {
    const one = cell('one');
    paintSoon(one, () => painted.push('old'));
    paintSoon(one, () => painted.push('new'));
    paintSoon(cell('two'), () => painted.push('two'));
    screen.frame();
    expect(painted).to.deep.equal(['new', 'two']);
  });

  for (const [what, soon, least, most] of [
    ['writes a figure that changes all the time at every second frame', paintSoon, 60, 63],
    ['draws a picture that changes all the time at every fourth', drawSoon, 30, 32],
  ] as const)
    it(what, () => {
      const one = cell('one');
      for (let i = 0; i < 125; i++) {
        soon(one, () => painted.push('x'));
        screen.frame();
      }
      expect(painted.length).to.be.within(least, most);
    });

  it('lets a figure wait for no picture, nor a picture for figures that change all the time', () => {
    const curve = cell('curve');
    const figure = cell('figure');
    drawSoon(curve, () => painted.push('first'));
    screen.frame();
    drawSoon(curve, () => painted.push('curve'));
    paintSoon(figure, () => painted.push('figure'));
    screen.frame();
    expect(painted).to.deep.equal(['first', 'figure']);
    for (let i = 0; i < 4; i++) {
      paintSoon(figure, () => screen.spend(2));
      paintSoon(cell('other'), () => screen.spend(2));
      screen.frame();
    }
    expect(painted).to.deep.equal(['first', 'figure', 'curve']);
  });

  it('leaves to the next frames what would make one late, and loses none of it', () => {
    for (const name of ['a', 'b', 'c', 'd'])
      paintSoon(cell(name), () => {
        painted.push(name);
        screen.spend(2);
      });
    screen.frame();
    expect(painted).to.deep.equal(['a']);
    screen.frameOf(3);
    expect(painted).to.deep.equal(['a', 'b', 'c', 'd']);
  });

  it('paints what a paint asks for in a later round, so that nothing can hold a frame', () => {
    const one = cell('one');
    const again = (): void => {
      painted.push('again');
      paintSoon(one, again);
    };
    paintSoon(one, again);
    screen.frame();
    expect(painted).to.have.length(1);
    screen.frameOf(10);
    expect(painted.length).to.be.within(5, 7);
    paintNoMore(one);
  });

  it('paints no more what was taken back, before its round and within it', () => {
    const first = cell('first');
    const second = cell('second');
    paintSoon(first, () => painted.push('first'));
    paintNoMore(first);
    paintSoon(cell('other'), () => {
      painted.push('other');
      paintNoMore(second);
    });
    paintSoon(second, () => painted.push('second'));
    screen.frameOf(8);
    expect(painted).to.deep.equal(['other']);
  });
});
