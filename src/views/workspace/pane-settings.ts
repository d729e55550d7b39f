import { settingOf, type Pane, type PaneKind } from './panes.ts';

/** One setting of a pane, as its popover offers it. */
export type SettingField = { readonly name: string; readonly label: string } & (
  | { readonly kind: 'choice'; readonly options: readonly (readonly [value: string, words: string])[]; readonly fallback: string }
  | { readonly kind: 'toggle'; readonly fallback: boolean }
  | { readonly kind: 'number'; readonly least: number; readonly most: number; readonly fallback: number }
  | { readonly kind: 'columns'; readonly options: readonly (readonly [value: string, words: string])[]; readonly fallback: readonly string[] }
);

type Options = readonly (readonly [string, string])[];
const choice = (name: string, label: string, options: Options, fallback = options[0]?.[0] ?? ''): SettingField => ({
  name,
  label,
  kind: 'choice',
  options,
  fallback,
});
const toggle = (name: string, label: string, fallback: boolean): SettingField => ({ name, label, kind: 'toggle', fallback });
const number = (name: string, label: string, least: number, most: number, fallback: number): SettingField => ({
  name,
  label,
  kind: 'number',
  least,
  most,
  fallback,
});
const columns = (options: Options, fallback: readonly string[]): SettingField => ({ name: 'columns', label: 'Columns', kind: 'columns', options, fallback });

/** What every pane can be set to. */
export const COMMON: readonly SettingField[] = [
  choice('density', 'Rows', [['tight', 'tight'], ['easy', 'easy']]), // prettier-ignore
  choice('size', 'Type', [['12', '12 px'], ['13', '13 px'], ['14', '14 px'], ['16', '16 px']], '13'), // prettier-ignore
  choice('colours', 'Colours', [['theme', 'as the theme'], ['ink', 'results in ink'], ['still', 'no flashes']]), // prettier-ignore
];

const DECIMALS = choice('decimals', 'Decimals', [['own', 'all'], ['0', '0'], ['1', '1'], ['2', '2'], ['3', '3'], ['4', '4']]); // prettier-ignore

export const GROUP_OPTIONS: Options = ['1', '2', '5', '10', '20', '50'].map((n) => [n, `${n} tick${n === '1' ? '' : 's'}`] as const);

export const QUOTE_COLUMNS = [
  ['last', 'last'],
  ['change', 'change'],
  ['percent', '%'],
  ['bidQuantity', 'bid qty'],
  ['bid', 'bid'],
  ['ask', 'ask'],
  ['askQuantity', 'ask qty'],
  ['balance', 'balance'],
  ['day', 'day line'],
  ['open', 'open'],
  ['high', 'high'],
  ['low', 'low'],
  ['volume', 'volume'],
  ['vwap', 'VWAP'],
  ['previous', 'previous'],
  ['spread', 'spread'],
  ['lastQuantity', 'last qty'],
  ['lastTime', 'last time'],
  ['state', 'state'],
  ['position', 'position'],
  ['result', 'open result'],
  ['name', 'name'],
  ['kind', 'kind'],
  ['venue', 'venue'],
  ['sector', 'sector'],
  ['limits', 'price limits'],
] as const;

const OF_KIND: Readonly<Partial<Record<PaneKind, readonly SettingField[]>>> = {
  Chart: [
    choice('style', 'Bars', [['candle', 'filled and hollow'], ['hollow', 'hollow by close'], ['bar', 'bars'], ['line', 'line'], ['area', 'area']]), // prettier-ignore
    choice('filled', 'Filled', [['down', 'falling'], ['up', 'rising'], ['both', 'both'], ['none', 'none']]), // prettier-ignore
    choice('scale', 'Scale', [['linear', 'linear'], ['log', 'logarithmic'], ['percent', 'percent']]), // prettier-ignore
    choice('hours', 'Hours', [['all', 'all of the venue'], ['session', 'the usual session']]), // prettier-ignore
    toggle('volume', 'Volume below', true),
    toggle('crosshair', 'Crosshair shared by letter', true),
    toggle('previousDay', 'Previous day’s high, low, close', false),
    toggle('openingRange', 'Opening range', false),
    number('openingMinutes', 'Opening range, minutes', 1, 120, 15),
    toggle('vwap', 'VWAP of the session', false),
    toggle('headlines', 'Marks of headlines', true),
    toggle('soundings', 'Soundings', true),
    number('farTicks', 'Slip when more than N ticks through', 0, 100, 5),
  ],
  Ladder: [
    choice('spine', 'Spine', [['third', 'stays until the market leaves the middle third'], ['follow', 'follows the market'], ['never', 'never moves by itself']]), // prettier-ignore
    choice('group', 'A row is', GROUP_OPTIONS),
    number('farTicks', 'Slip when more than N ticks through', 0, 100, 5),
    toggle('pins', 'Pins', true),
    toggle('depth', 'Depth', true),
    toggle('result', 'Result beside each price', true),
    toggle('sizes', 'Size keys', true),
    toggle('buttons', 'Buttons below', true),
  ],
  Depth: [
    choice('group', 'A row is', GROUP_OPTIONS),
    columns([['orders', 'orders'], ['total', 'running total']], ['orders', 'total']), // prettier-ignore
    toggle('statistics', 'Day statistics', true),
    DECIMALS,
  ],
  'Time & sales': [
    number('least', 'Smallest quantity shown', 0, 1_000_000, 0),
    number('large', 'Large from quantity', 0, 10_000_000, 0),
    columns([['time', 'time'], ['side', 'aggressor'], ['value', 'value']], ['time', 'side']), // prettier-ignore
  ],
  'Quote table': [
    columns(QUOTE_COLUMNS, ['last', 'percent', 'bidQuantity', 'bid', 'ask', 'askQuantity', 'balance', 'day', 'position']),
    choice('by', 'Group by', [['none', 'nothing'], ['venue', 'venue'], ['kind', 'kind'], ['sector', 'sector']]), // prettier-ignore
    DECIMALS,
  ],
  Watchlist: [columns([['last', 'last'], ['percent', '%'], ['change', 'change'], ['volume', 'volume'], ['mark', 'letter'], ['note', 'note']], ['last', 'percent']), DECIMALS], // prettier-ignore
  Orders: [columns([['type', 'type'], ['price', 'price'], ['until', 'until'], ['state', 'state'], ['waits', 'waits'], ['filled', 'filled'], ['account', 'account']], ['type', 'price', 'state', 'waits', 'filled', 'account'])], // prettier-ignore
  Positions: [columns([['account', 'account'], ['average', 'average'], ['mark', 'mark'], ['open', 'open'], ['net', 'net today'], ['stopped', 'if stopped']], ['account', 'average', 'mark', 'open', 'net', 'stopped'])], // prettier-ignore
  Fills: [columns([['price', 'price'], ['fee', 'fee'], ['realised', 'realised'], ['account', 'account']], ['price', 'fee', 'realised', 'account'])], // prettier-ignore
  'Live list': [number('rows', 'Rows', 5, 200, 40)],
  News: [toggle('all', 'All headlines', false)],
};

/** All that a pane of a kind can be set to. */
export const settingsOf = (kind: PaneKind): readonly SettingField[] => [...(OF_KIND[kind] ?? []), ...COMMON];

/** The value of a pane's setting, its fallback where it was never set. */
export function setting<T extends string | boolean | number | readonly string[]>(pane: Pane | undefined, name: string): T {
  const field = pane && settingsOf(pane.kind).find((one) => one.name === name);
  return settingOf(pane, name, (field?.fallback ?? '') as T);
}
