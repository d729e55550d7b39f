import { bollinger, ema, linearRegression, sma, wma } from './averages.ts';
import { atr, donchian, keltner, vwap } from './channels.ts';
import type { StudyDefinition } from './definition.ts';
import { pivots } from './levels.ts';
import { cci, macd, momentum, obv, rateOfChange, rsi, stochastic } from './oscillators.ts';
import { adx, parabolic } from './trend.ts';

/** The volume profile has no value a bar: it is drawn from the bars in view by {@link volumeProfile}. */
const profile: StudyDefinition = {
  kind: 'volume-profile',
  name: 'Volume profile of what is in view',
  about: 'volume by price, over the bars in view',
  place: 'price',
  parameters: [{ name: 'rows', words: 'Rows', fallback: 40, least: 5, most: 200, whole: true }],
  lines: [],
  hidden: 0,
  compute: () => undefined,
};

/** Every study there is, by kind. */
export const STUDIES: ReadonlyMap<string, StudyDefinition> = new Map(
  [
    sma,
    ema,
    wma,
    vwap,
    bollinger,
    keltner,
    donchian,
    linearRegression,
    parabolic,
    pivots,
    profile,
    atr,
    rsi,
    macd,
    stochastic,
    cci,
    adx,
    obv,
    momentum,
    rateOfChange,
  ].map((study) => [study.kind, study]),
);
