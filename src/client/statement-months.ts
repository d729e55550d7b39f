import { formatScaled, parseScaled } from '../core/number/index.ts';

interface Day {
  readonly day: string;
  readonly opening: string;
  readonly closing: string;
  readonly movements: readonly { readonly amount: string }[];
}

/** A month of a statement: opening + came − went = closing, exactly. */
export interface Month {
  /** `2026-03`. */
  readonly month: string;
  readonly opening: string;
  readonly came: string;
  /** Without a sign. */
  readonly went: string;
  readonly closing: string;
}

const MONTH_LENGTH = 7;
const DECIMALS = 8;

/** The days of a statement, oldest first, by their months; sums have as many places as what they are between. */
export function monthsOf(days: readonly Day[]): Month[] {
  const months = new Map<string, Day[]>();
  for (const day of days) {
    const month = day.day.slice(0, MONTH_LENGTH);
    months.set(month, [...(months.get(month) ?? []), day]);
  }
  return [...months].map(([month, of]) => {
    const [first, last] = [of[0] as Day, of[of.length - 1] as Day];
    const places = first.opening.split('.')[1]?.length ?? 0;
    const amounts = of.flatMap(({ movements }) => movements.map(({ amount }) => parseScaled(amount, DECIMALS) ?? 0n));
    const sum = (wanted: (amount: bigint) => boolean): bigint => amounts.filter(wanted).reduce((total, amount) => total + amount, 0n);
    return {
      month,
      opening: first.opening,
      came: formatScaled(
        sum((amount) => amount > 0n),
        DECIMALS,
        places,
      ),
      went: formatScaled(-sum((amount) => amount < 0n), DECIMALS, places),
      closing: last.closing,
    };
  });
}
