import { computed } from 'nanostores';
import type { AnswerOf } from '../live/index.ts';
import { settings as remote } from './saved-remote.ts';
import { mergeFields, thingsOf } from './things.ts';

/** How Kavix is set up for a user, in all their windows. */
export type Settings = AnswerOf<'GET /api/settings'>;

/** What is not chosen is so. */
export const AS_BROUGHT: Settings = {
  theme: 'night',
  scale: 100,
  againMs: 250,
  latch: false,
  keepAll: false,
  volume: 50,
  alertsSeen: 0,
  daySheet: true,
  daySheetSeen: '',
  locksSeen: {},
  setupWords: {},
  sounds: [],
  sizeKeys: {
    share: ['50', '100', '300', '500', '1000', '2000', '3000', '5000', '10000'],
    fund: ['50', '100', '300', '500', '1000', '2000', '3000', '5000', '10000'],
    future: ['1', '2', '3', '5', '10', '20', '30', '50', '100'],
    option: ['1', '2', '3', '5', '10', '20', '30', '50', '100'],
    spot: ['0.1', '0.5', '1', '2', '5', '10', '20', '50', '100'],
    inverse: ['100', '500', '1000', '2000', '5000', '10000', '20000', '50000', '100000'],
  },
};

const NAME = 'own';
const own = thingsOf<Partial<Settings>>('settings', 'the settings', { remote, first: () => ({}), merge: mergeFields });

/** What was chosen; empty until it is known. */
const $chosen = computed(own.$all, (all): Partial<Settings> => {
  const thing = all[NAME];
  return thing?.kind === 'known' ? thing.value : {};
});
export const $settings = computed($chosen, (chosen): Settings => ({ ...AS_BROUGHT, ...chosen, sizeKeys: { ...AS_BROUGHT.sizeKeys, ...chosen.sizeKeys } }));
/** What the slip says of setups that lose on average, by setup. */
export const $setupWords = computed($settings, ({ setupWords }) => setupWords as Readonly<Record<string, string>>);
/** Whether the settings are known, or could not be read. */
export const $settingsState = computed(own.$all, (all) => all[NAME]?.kind ?? 'loading');

export const loadSettings = (): Promise<unknown> => own.load(NAME);

/** @returns false where they are not known yet: then nothing changes */
export const changeSettings = (change: Partial<Settings>): boolean => own.change(NAME, (before) => ({ ...before, ...change }));

/** What of the settings is meant for elsewhere too: all but what was read and seen here. */
export function portable<S extends Partial<Settings>>(settings: S): Partial<Settings> {
  const { alertsSeen: _alerts, daySheetSeen: _sheet, locksSeen: _locks, ...rest } = settings;
  return rest;
}
