import { ghostAt, ghostRequest, type Ghost, type GhostAsk } from '../../core/orders/index.ts';
import type { Surface } from '../session.ts';
import { TRAVEL_PX } from './guard.ts';
import type { OrderWish } from './intent.ts';
import type { Gesture, Submitted } from './submit.ts';

/** What an order area shows where it is aimed at. */
export interface Shown<A> {
  readonly aim: A;
  readonly ghost: Ghost | null;
  /** The order it would be, with the exit plan that would go with it. */
  readonly wish: OrderWish | null;
  /** What a press would do, or why it would do nothing. */
  readonly words: string;
  /** A press sends at once; otherwise it opens the slip. */
  readonly sends: boolean;
}

/** Where the orders of an area would go, and what tells of them. */
export interface AreaHost<A> {
  readonly pane: string;
  readonly surface: Surface;
  /** Two aims with one key are the same place. */
  key(aim: A): string;
  account(aim: A): string;
  /** What would be asked for there now; null while no price is known. */
  ask(aim: A): GhostAsk | null;
  /** Why the account can't trade there, or null. */
  forbidden(aim: A): string | null;
  quotesFresh(): boolean;
  now(): number;
  /** When target, rows or scale last changed, besides what {@link OrderArea.moved} notes. */
  changedAt(): number;
  /** Hears of {@link OrderArea.moved}. */
  moved(): void;
  /** Through the market by more than this many ticks the slip opens in every setting. */
  farTicks(): number;
  /** Whether an order from here would be sent at once. */
  sendsAtOnce(wish: OrderWish): boolean;
  /** The exit plan that would go with it. */
  planOn(wish: OrderWish): string | null;
  /** Hears what is shown where it is aimed at, null where nothing is. */
  shown(shown: Shown<A> | null): void;
  submit(gesture: Gesture): Submitted;
  refuse(words: string): void;
  /** Lists what is legal there: where nothing trades now, what a press means is not plain enough to be sent. */
  list?(aim: A, at: { readonly clientX: number; readonly clientY: number }): void;
}

const OLD = 'the price is old: nothing can be sent';
const NOT_YET = 'what is under the pointer changed a moment ago; press again';

/**
 * An order area: what is aimed at, what is painted there, and what a press does. The same for ladder, chart and
 * tables, which only say where things are.
 */
export class OrderArea<A> {
  aim: A | null = null;
  private painted: Shown<A> | null = null;
  private pressed: { readonly shown: Shown<A> | null; readonly aim: A; readonly x: number; readonly y: number } | null = null;
  private movedAt = -Infinity;
  private readonly host: AreaHost<A>;

  constructor(host: AreaHost<A>) {
    this.host = host;
  }

  /** Rows or scale moved under the pointer. */
  moved(): void {
    this.movedAt = this.host.now();
    this.host.moved();
  }

  /** @returns whether another place is aimed at than before */
  point(aim: A | null): boolean {
    const same = aim !== null && this.aim !== null ? this.host.key(aim) === this.host.key(this.aim) : aim === this.aim;
    this.aim = aim;
    return !same;
  }

  /** What is shown now where it is aimed at; what this gives must be painted, for a press is held to it. */
  paint(): Shown<A> | null {
    this.painted = this.aim === null ? null : this.look(this.aim);
    this.host.shown(this.painted);
    return this.painted;
  }

  private look(aim: A): Shown<A> {
    const { host } = this;
    const forbidden = host.forbidden(aim);
    const ask = forbidden === null && host.quotesFresh() ? host.ask(aim) : null;
    if (!ask) return { aim, ghost: null, wish: null, words: forbidden ?? OLD, sends: false };
    const found = ghostAt(ask);
    if (!found.ok) return { aim, ghost: null, wish: null, words: found.refusal, sends: false };
    const ghost = found.value;
    if (this.lists(ask)) return { aim, ghost, wish: null, words: `${ask.market.state}: a press lists what is possible`, sends: false };
    const wish = { account: host.account(aim), ...ghostRequest(ghost, ask.instrument) };
    const sends = !isFar(ask, ghost, host.farTicks()) && host.sendsAtOnce(wish);
    const plan = host.planOn(wish);
    const words = plan === null ? ghost.words : `${ghost.words} · exit plan ${plan}`;
    return { aim, ghost, wish: plan === null ? wish : { ...wish, exitPlan: plan }, words: sends ? `${words} · SENDS AT ONCE` : words, sends };
  }

  private lists({ market }: GhostAsk): boolean {
    return this.host.list !== undefined && market.state !== 'open';
  }

  down(aim: A, x: number, y: number): void {
    const shown = this.painted && this.host.key(this.painted.aim) === this.host.key(aim) ? this.painted : null;
    this.pressed = { shown, aim, x, y };
  }

  /** Something else took the press, or the window lost it. */
  drop(): void {
    this.pressed = null;
  }

  /** The end of a press: an order only where it began in the same place and hardly travelled. */
  up(aim: A | null, x: number, y: number): void {
    const { host, pressed } = this;
    this.pressed = null;
    if (!pressed) return host.refuse(NOT_YET);
    if (aim === null || host.key(aim) !== host.key(pressed.aim) || Math.hypot(x - pressed.x, y - pressed.y) >= TRAVEL_PX) return;
    const ask = host.ask(aim);
    if (!ask) return host.refuse(host.forbidden(aim) ?? OLD);
    if (this.lists(ask)) return host.list?.(aim, { clientX: x, clientY: y });
    const present = ghostAt(ask);
    const wish: OrderWish | null = present.ok ? { account: host.account(aim), ...ghostRequest(present.value, ask.instrument) } : null;
    const key = `${host.pane} ${ask.instrument.id} ${ask.side} ${ask.price}`;
    const evidence = {
      changedAt: Math.max(this.movedAt, host.changedAt()),
      key,
      painted: pressed.shown?.ghost ?? null,
      present: present.ok ? present.value : null,
      reason: present.ok ? (pressed.shown?.ghost ? null : (pressed.shown?.words ?? null)) : present.refusal,
    };
    const far = present.ok && isFar(ask, present.value, host.farTicks());
    // Without a ghost there is nothing to send, and the guard says why.
    const intent = wish && ({ kind: 'place', wish } as const);
    host.submit({ pane: host.pane, from: host.surface, intent, evidence, ...(far ? { always: 'slip' as const } : {}) });
  }
}

function isFar(ask: GhostAsk, ghost: Ghost, farTicks: number): boolean {
  if (ghost.effect !== 'fills now') return false;
  const best = ask.side === 'buy' ? ask.market.ask : ask.market.bid;
  const tick = ask.instrument.tickBands[0]?.tick ?? 1;
  return best !== null && Math.abs(ghost.price - best) > farTicks * tick;
}
