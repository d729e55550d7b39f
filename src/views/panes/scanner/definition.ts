import { definePane } from '../definition.ts';

export const scannerPane = definePane('looks through all that trades by conditions in words', 'name', {}, () => import('./ScannerPane.tsx'));
