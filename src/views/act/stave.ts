import { LEG_NAMES, legPrice, readExitPlan, shareOut, type ExitPlan, type ExitPlanText, type LegName, type Reference } from '../../core/exits/index.ts';
import { formatPrice, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { inCents, minus } from '../../core/number/index.ts';
import { valueAt } from '../../core/portfolio/index.ts';

/** A leg as a rung over or under the ground line: where it lies, how long it is, what it would make or lose. */
export interface Rung {
  readonly step: number;
  readonly leg: LegName;
  readonly price: string;
  /** Away from the entry, in price units; above it positive. */
  readonly away: number;
  /** Of the whole, 0 to 1. */
  readonly share: number;
  readonly quantity: number;
  /** In what the instrument settles in, before fees. */
  readonly money: string;
}

/** A plan on a position of a quantity at a price, as the rungs it is drawn with. */
export function staveOf(plan: ExitPlan, instrument: Instrument, long: boolean, entry: Price, quantity: Quantity): Rung[] {
  const reference = (of: Quantity): Reference => ({ quantity: of, cost: valueAt(instrument, of, entry) });
  const quantities = shareOut(
    quantity,
    plan.steps.map(({ share }) => share),
  );
  return plan.steps.flatMap((step, i) => {
    const part = quantities[i];
    if (part === undefined || part === 0) return [];
    return LEG_NAMES.flatMap((leg): Rung[] => {
      const asked = step[leg];
      const price = asked && legPrice(instrument, long, leg, asked.distance, reference(quantity), part);
      if (!price) return [];
      const [bought, sold] = [valueAt(instrument, part, entry), valueAt(instrument, part, price)];
      const up = instrument.kind === 'inverse' ? minus(bought, sold) : minus(sold, bought);
      const money = long ? up : minus(sold, sold, up);
      return [
        { step: i, leg, price: formatPrice(instrument, price), away: price - entry, share: Number(part) / quantity, quantity: part, money: inCents(money) },
      ];
    });
  });
}

/** What keeps a text from being a plan, by its path; empty where it is one. */
export function planOf(text: ExitPlanText): { readonly plan: ExitPlan | null; readonly problems: ReadonlyMap<string, string> } {
  const read = readExitPlan(text);
  return read.ok ? { plan: read.value, problems: new Map() } : { plan: null, problems: new Map(read.refusal.map(({ path, message }) => [path, message])) };
}
