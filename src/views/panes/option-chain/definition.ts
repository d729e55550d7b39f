import { definePane } from '../definition.ts';
import { CHAIN } from './settings.ts';

export const optionChainPane = definePane('calls and puts by strike: quotes, volatility, delta', 'name', CHAIN, () => import('./OptionChainPane.tsx'));
