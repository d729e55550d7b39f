import { impliedVolatility, valueOption, type OptionTerms, type Right } from '../../../core/options/index.ts';
import { decimalText } from '../../../core/number/index.ts';
import { endpoint, json } from '../_endpoint.ts';
import { invalid } from '../_problem.ts';

type Field = 'spot' | 'strike' | 'years' | 'rate' | 'dividendYield' | 'volatility' | 'price';
type Body = { readonly right: Right } & Readonly<Record<Exclude<Field, 'volatility' | 'price'>, string>> & {
    readonly volatility?: string;
    readonly price?: string;
  };

const LARGEST = 1e9;

/** What is too large, too small or said twice. */
function problemsIn(body: Body): { path: string; message: string }[] {
  const problems: { path: string; message: string }[] = [];
  const within = (field: Field, text: string | undefined, least: number, most: number, open = false): void => {
    const value = Number(text);
    if (text !== undefined && !(open ? value > least && value <= most : value >= least && value <= most))
      problems.push({ path: `/${field}`, message: `must be ${open ? 'above' : 'from'} ${least}${open ? ', at most' : ' to'} ${most}` });
  };
  within('spot', body.spot, 0, LARGEST, true);
  within('strike', body.strike, 0, LARGEST, true);
  within('years', body.years, 0, 100);
  within('rate', body.rate, -1, 1);
  within('dividendYield', body.dividendYield, -1, 1);
  within('volatility', body.volatility, 0, 10, true);
  within('price', body.price, 0, LARGEST);
  const given = [body.volatility, body.price].filter((one) => one !== undefined).length;
  if (given !== 1) problems.push({ path: given === 0 ? '/volatility' : '/price', message: 'exactly one of volatility and price is needed' });
  return problems;
}

export const ALL = endpoint('/api/options/value', {
  POST: (call) => {
    const body = call.body as Body;
    const problems = problemsIn(body);
    if (problems.length > 0) return invalid(problems);
    const terms: OptionTerms = {
      right: body.right,
      spot: Number(body.spot),
      strike: Number(body.strike),
      years: Number(body.years),
      rate: Number(body.rate),
      dividendYield: Number(body.dividendYield),
    };
    const volatility = body.volatility === undefined ? impliedVolatility(terms, Number(body.price)) : Number(body.volatility);
    const ended = terms.years <= 0;
    const value = volatility === null && !ended ? null : valueOption(terms, volatility ?? 0);
    const said = (figure: number | undefined): string | null => (figure === undefined ? null : decimalText(figure));
    return json(200, {
      price: body.price ?? said(value?.price),
      delta: said(value?.delta),
      gamma: said(value?.gamma),
      theta: said(value?.theta),
      vega: said(value?.vega),
      rho: said(value?.rho),
      impliedVolatility: volatility === null ? null : decimalText(volatility),
    });
  },
});
