import { moneyPlaces, sumsByCurrency } from '../../client/position-figures.ts';
import { grouped, lengthened, resultClass, shortened, signedShort } from '../../kit/Figure.tsx';

interface Props {
  readonly amounts: readonly { readonly currency: string; readonly amount: string }[];
  /** A cost, which runs one way only. */
  readonly plain?: boolean;
}

/** What a column of money comes to: a line for each currency, and what is not in EUR says so. */
export const MoneyTotal = ({ amounts, plain = false }: Props) =>
  sumsByCurrency(amounts).map(([currency, sum], i) => {
    if (i > 0 && Number(sum) === 0) return null;
    const places = moneyPlaces(currency);
    const full = lengthened(sum, currency === 'EUR' ? places : 0);
    return (
      <span
        key={currency}
        className={`block ${currency === 'EUR' ? 'leading-[16px]' : 'text-[11px] leading-[14px]'} ${plain ? '' : resultClass(sum)}`}
        title={`${sum} ${currency}`}
      >
        {plain ? grouped(shortened(full, places)) : signedShort(full, places)}
        {currency === 'EUR' ? '' : <small> {currency}</small>}
      </span>
    );
  });
