/** What price a stop watches. */
export const TRIGGER_SOURCES = ['last', 'bid', 'ask'] as const;
export type TriggerSource = (typeof TRIGGER_SOURCES)[number];
