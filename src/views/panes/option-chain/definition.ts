import { definePane } from '../definition.ts';

export const optionChainPane = definePane('calls and puts by strike: quotes, volatility, delta', 'name', {}, () => import('./OptionChainPane.tsx'));
