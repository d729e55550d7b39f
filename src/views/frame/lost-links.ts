import { formatScaled, parseScaled } from '../../core/number/index.ts';
import { grouped } from '../../kit/Figure.tsx';
import { tickerOf, type ApiFill, type ApiOrder, type ApiRunningPlan } from '../../live/index.ts';

/** What closes a position and is held here: a plan, or an order without one. */
export interface ExitHere {
  readonly instrument: string;
  readonly quantity: string;
  /** Its plan, and how much that had said so far; null for an order. */
  readonly plan: { readonly id: string; readonly said: number } | null;
  readonly orderId: string | null;
  readonly suspended: boolean;
}

const byInstrument = (a: ExitHere, b: ExitHere): number => (a.instrument < b.instrument ? -1 : a.instrument > b.instrument ? 1 : 0);

const DECIMALS = 8;
const WATCHING: readonly ApiRunningPlan['state'][] = ['armed', 'suspended', 'asking'];

function openOf({ steps }: ApiRunningPlan): string {
  const open = steps.reduce(
    (sum, { quantity, closedQuantity }) => sum + (parseScaled(quantity, DECIMALS) ?? 0n) - (parseScaled(closedQuantity, DECIMALS) ?? 0n),
    0n,
  );
  return formatScaled(open, DECIMALS, 0);
}

/** The exits that wait here, by instrument. */
export function exitsHere(plans: readonly ApiRunningPlan[], working: readonly ApiOrder[]): ExitHere[] {
  const ofPlans = plans
    .filter(({ heldBy, state }) => heldBy === 'here' && WATCHING.includes(state))
    .map((plan): ExitHere => ({
      instrument: plan.instrument,
      quantity: openOf(plan),
      plan: { id: plan.id, said: plan.log.length },
      orderId: null,
      suspended: plan.state === 'suspended',
    }));
  const ofOrders = working
    .filter(({ heldBy, opening, plan }) => heldBy === 'here' && !opening && plan === null)
    .map((order): ExitHere => ({
      instrument: order.instrument,
      quantity: order.remainingQuantity,
      plan: null,
      orderId: order.id,
      suspended: order.state === 'suspended',
    }));
  return [...ofPlans, ...ofOrders].sort(byInstrument);
}

/** What a lost link holds up, by what was known of it before and what is known now: each as it was when suspended, whatever is told of it first. */
export function heldUp(before: readonly ExitHere[], now: readonly ExitHere[]): ExitHere[] {
  const known = (exits: readonly ExitHere[], of: ExitHere): ExitHere | undefined =>
    exits.find(({ plan, orderId }) => plan?.id === of.plan?.id && orderId === of.orderId);
  return [...before.filter((one) => !known(now, one)?.suspended), ...now.filter((one) => one.suspended || !known(before, one))].sort(byInstrument);
}

/** A sentence of a band; `strong` is what must not be overlooked. */
export interface BandWords {
  readonly before: string;
  readonly strong: string;
  readonly after: string;
}

const plain = (before: string): BandWords => ({ before, strong: '', after: '' });
const counted = (count: number, one: string, many = `${one}s`): string => `${count} ${count === 1 ? one : many}`;
const named = ({ instrument, quantity }: ExitHere): string => `${tickerOf(instrument)} ${grouped(quantity)}`;

export const screenLost = (at: string): BandWords =>
  plain(`This screen lost Kavix at ${at}. What you see is old. Orders at the venue and exits held here go on without it. Nothing done here is sent.`);

/** @param atVenue how many orders work at the venues */
export function brokerLost(at: string, exits: readonly ExitHere[], atVenue: number): BandWords {
  const since = `No link to the broker since ${at}. `;
  const venue = `${atVenue === 0 ? '' : `${counted(atVenue, 'order')} at the venue ${atVenue === 1 ? 'goes' : 'go'} on there. `}Nothing can be sent.`;
  if (exits.length === 0) return plain(since + venue);
  return {
    before: since,
    strong: `${counted(exits.length, 'exit')} held here ${exits.length === 1 ? 'is' : 'are'} SUSPENDED`,
    after: `: ${exits.map(named).join(', ')}. ${exits.length === 1 ? 'It is' : 'They are'} checked when it is back. ${venue}`,
  };
}

export function pricesLost(at: string, exits: readonly ExitHere[]): BandWords {
  const since = `No prices since ${at}. `;
  const close = 'The broker link works: you can close.';
  if (exits.length === 0) return plain(`${since}Nothing here sees its market. ${close}`);
  return {
    before: since,
    strong: `${counted(exits.length, 'exit')} held here can’t see ${exits.length === 1 ? 'its market' : 'their markets'}`,
    after: `: ${exits.map(named).join(', ')}. ${exits.length === 1 ? 'Its stop' : 'Their stops'} can’t fire. ${close}`,
  };
}

/** How long something took, in minutes and seconds. */
function awayWords(from: string, to: string): string {
  const seconds = Math.max(0, Math.round((Date.parse(to) - Date.parse(from)) / 1000));
  return seconds < 60 ? `${seconds} s` : `${Math.floor(seconds / 60)} min ${seconds % 60} s`;
}

const MOST_TOLD = 3;
const fillWords = ({ side, quantity, price }: ApiFill): string => `${side === 'buy' ? 'bought' : 'sold'} ${grouped(quantity)} at ${price}`;

/** What was away, from when to when, and which exits it held up. */
export interface Away {
  readonly what: 'Broker' | 'Prices';
  readonly from: string;
  readonly to: string;
  readonly exits: readonly ExitHere[];
}

/**
 * What a link's return brought: of each exit that it held up what its plan says now and what it closed, then the
 * other fills from meanwhile.
 */
export function backWords({ what, from, to, exits }: Away, at: string, plans: Readonly<Record<string, ApiRunningPlan>>, fills: readonly ApiFill[]): string {
  const missed = fills.filter(({ time }) => time > from);
  const told = new Set<ApiFill>();
  const ofExits = exits.map((exit) => {
    const said = exit.plan && plans[exit.plan.id]?.log.slice(exit.plan.said);
    const orders = new Set([exit.orderId, ...(said ?? []).map(({ orderId }) => orderId)]);
    const closed = missed.filter(({ orderId }) => orders.has(orderId));
    for (const fill of closed) told.add(fill);
    const words = [...(said?.[0] ? [lowered(said[0].text.replace(/\.$/, ''))] : []), ...closed.map(fillWords)];
    return words.length === 0 ? '' : ` ${named(exit)}: ${words.join('; ')}.`;
  });
  const others = missed.filter((fill) => !told.has(fill));
  const filled = others.slice(0, MOST_TOLD).map((fill) => `${tickerOf(fill.instrument)} ${fillWords(fill)}`);
  const more = others.length > MOST_TOLD ? `, and ${counted(others.length - MOST_TOLD, 'fill')} more` : '';
  const rest = others.length > 0 ? ` Meanwhile ${filled.join('; ')}${more}.` : told.size > 0 || what === 'Prices' ? '' : ' Nothing filled meanwhile.';
  return `${what} back ${at}, away ${awayWords(from, to)}.${ofExits.join('')}${rest}`;
}

const lowered = (text: string): string => text.slice(0, 1).toLowerCase() + text.slice(1);
