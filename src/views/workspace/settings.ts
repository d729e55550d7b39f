import { useMemo } from 'react';
import { settingOf, type Pane } from './panes.ts';

/** A value of a choice, and its words. */
export type Option<V extends string = string> = readonly [value: V, words: string];

export interface ChoiceField<V extends string = string> {
  readonly kind: 'choice';
  readonly label: string;
  readonly options: readonly Option<V>[];
  readonly fallback: V;
}
export interface ToggleField {
  readonly kind: 'toggle';
  readonly label: string;
  readonly fallback: boolean;
}
export interface NumberSetting {
  readonly kind: 'number';
  readonly label: string;
  readonly least: number;
  readonly most: number;
  readonly fallback: number;
}
export interface ColumnsField<V extends string = string> {
  readonly kind: 'columns';
  readonly label: string;
  readonly options: readonly Option<V>[];
  readonly fallback: readonly V[];
}
/** One setting of a pane, as its popover offers it and as a saved workspace holds it. */
export type SettingField = ChoiceField | ToggleField | NumberSetting | ColumnsField;
/** The settings of a kind of pane, by the names under which they are saved. */
export type Settings = Readonly<Record<string, SettingField>>;

type ValueOf<F> =
  F extends ChoiceField<infer V>
    ? V
    : F extends ColumnsField<infer V>
      ? readonly V[]
      : F extends ToggleField
        ? boolean
        : F extends NumberSetting
          ? number
          : never;
export type Values<S extends Settings> = { readonly [N in keyof S]: ValueOf<S[N]> };

export const choice = <const V extends string>(label: string, options: readonly Option<V>[], fallback?: NoInfer<V>): ChoiceField<V> => ({
  kind: 'choice',
  label,
  options,
  fallback: fallback ?? (options[0]?.[0] as V),
});
export const toggle = (label: string, fallback: boolean): ToggleField => ({ kind: 'toggle', label, fallback });
export const number = (label: string, least: number, most: number, fallback: number): NumberSetting => ({ kind: 'number', label, least, most, fallback });
export const columns = <const V extends string>(options: readonly Option<V>[], fallback: readonly NoInfer<V>[]): ColumnsField<V> => ({
  kind: 'columns',
  label: 'Columns',
  options,
  fallback,
});

/** What every pane can be set to. */
export const COMMON = {
  density: choice('Rows', [['tight', 'tight'], ['easy', 'easy']]), // prettier-ignore
  size: choice('Type', [['12', '12 px'], ['13', '13 px'], ['14', '14 px'], ['16', '16 px']], '13'), // prettier-ignore
  colours: choice('Colours', [['theme', 'as the theme'], ['ink', 'results in ink'], ['still', 'no flashes']]), // prettier-ignore
} as const;

export const DECIMALS = choice('Decimals', [['own', 'all'], ['0', '0'], ['1', '1'], ['2', '2'], ['3', '3'], ['4', '4']]); // prettier-ignore
export const GROUP = choice('A row is', [['1', '1 tick'], ['2', '2 ticks'], ['5', '5 ticks'], ['10', '10 ticks'], ['20', '20 ticks'], ['50', '50 ticks']]); // prettier-ignore
export const FAR_TICKS = number('Slip when more than N ticks through', 0, 100, 5);

/** A saved value where it is one that the field takes, else what it is without one. */
export function valueOf(pane: Pane | undefined, name: string, field: SettingField): string | boolean | number | readonly string[] {
  const value = settingOf<string | boolean | number | readonly string[]>(pane, name, field.fallback);
  const among = (one: unknown): boolean => 'options' in field && field.options.some(([option]) => option === one);
  switch (field.kind) {
    case 'choice':
      return among(value) ? value : field.fallback;
    case 'columns':
      return (value as readonly string[]).filter(among);
    case 'number':
      return Math.max(field.least, Math.min(field.most, value as number));
    case 'toggle':
      return value;
    default:
      return field satisfies never;
  }
}

/** A pane's settings, each with what it is where it was never set. */
export const readSettings = <S extends Settings>(pane: Pane | undefined, settings: S): Values<S> =>
  Object.fromEntries(Object.entries(settings).map(([name, field]) => [name, valueOf(pane, name, field)])) as Values<S>;

/** The same for a view: as long as the pane is the same they are too. */
export const useSettings = <S extends Settings>(pane: Pane | undefined, settings: S): Values<S> =>
  useMemo(() => readSettings(pane, settings), [pane, settings]);
