/** What a value is. Compared or added must be alike; a bare number fits any but a word. */
export const VALUE_TYPES = ['price', 'percent', 'quantity', 'money', 'number', 'word'] as const;
export type ValueType = (typeof VALUE_TYPES)[number];

export interface Field {
  readonly words: string;
  readonly type: ValueType;
  /** What it is, in one sentence. */
  readonly about: string;
}

/** The fields of a quote and of an instrument, by name; those of several words first where one begins another. */
export const FIELDS = {
  last: { words: 'last', type: 'price', about: 'the last trade, of any day' },
  bid: { words: 'bid', type: 'price', about: 'the best price somebody buys at' },
  ask: { words: 'ask', type: 'price', about: 'the best price somebody sells at' },
  mid: { words: 'mid', type: 'price', about: 'half-way between bid and ask' },
  spread: { words: 'spread', type: 'price', about: 'ask less bid' },
  mark: { words: 'mark', type: 'price', about: 'what a position is valued at' },
  open: { words: 'open', type: 'price', about: 'the first trade of the day' },
  high: { words: 'high', type: 'price', about: 'the highest trade of the day' },
  low: { words: 'low', type: 'price', about: 'the lowest trade of the day' },
  volume: { words: 'volume', type: 'quantity', about: 'what was traded today' },
  vwap: { words: 'vwap', type: 'price', about: 'the average price of what was traded today' },
  turnover: { words: 'turnover', type: 'money', about: 'the money traded today' },
  range: { words: 'range', type: 'price', about: 'the day’s high less its low' },
  'change %': { words: 'change %', type: 'percent', about: 'the last trade against the previous settlement, in percent' },
  change: { words: 'change', type: 'price', about: 'the last trade less the previous settlement' },
  'gap %': { words: 'gap %', type: 'percent', about: 'the day’s open against the previous settlement, in percent' },
  'previous high': { words: 'previous high', type: 'price', about: 'the high of the day before' },
  'previous low': { words: 'previous low', type: 'price', about: 'the low of the day before' },
  'previous close': { words: 'previous close', type: 'price', about: 'the settlement of the day before' },
  'usual volume': { words: 'usual volume', type: 'quantity', about: 'what is usually traded by this time of the day' },
  'relative volume': { words: 'relative volume', type: 'number', about: 'volume against the usual volume' },
  'shares outstanding': { words: 'shares outstanding', type: 'quantity', about: 'shares in issue' },
  'market value': { words: 'market value', type: 'money', about: 'shares in issue at the last trade' },
  'earnings per share': { words: 'earnings per share', type: 'price', about: 'earned a share and year' },
  'price to earnings': { words: 'price to earnings', type: 'number', about: 'the last trade against earnings per share' },
  'dividend per share': { words: 'dividend per share', type: 'price', about: 'paid out a share and year' },
  'dividend yield': { words: 'dividend yield', type: 'percent', about: 'dividend per share against the last trade, in percent' },
  kind: { words: 'kind', type: 'word', about: 'share, fund, future, option, spot, inverse or index' },
  venue: { words: 'venue', type: 'word', about: 'where it is listed' },
  sector: { words: 'sector', type: 'word', about: 'what the company does' },
  ticker: { words: 'ticker', type: 'word', about: 'the short name without its venue' },
  name: { words: 'name', type: 'word', about: 'the name in full' },
} as const satisfies Readonly<Record<string, Field>>;

export type FieldName = keyof typeof FIELDS;
export const FIELD_NAMES = Object.keys(FIELDS) as readonly FieldName[];
export const fieldOf = (name: FieldName): Field => FIELDS[name];

/** What a bar has. */
export const BAR_FIELDS = ['open', 'high', 'low', 'close', 'volume'] as const;
export type BarField = (typeof BAR_FIELDS)[number];

export const FLAGS = {
  halted: 'the exchange has stopped trading in it',
  'open now': 'it can be traded now',
  held: 'you hold a position in it',
  'has orders': 'you have working orders in it',
  optionable: 'there are options on it',
} as const;
export type FlagName = keyof typeof FLAGS;
export const FLAG_NAMES = Object.keys(FLAGS) as readonly FlagName[];
