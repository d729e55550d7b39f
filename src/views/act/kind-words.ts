import type { Settings } from '../../client/settings.ts';

/** What is traded of each kind, in words. */
export const KIND_WORDS: Readonly<Record<keyof Settings['sizeKeys'], string>> = {
  share: 'Shares',
  fund: 'Funds',
  future: 'Futures',
  option: 'Options',
  spot: 'Spot',
  inverse: 'Inverse',
};
