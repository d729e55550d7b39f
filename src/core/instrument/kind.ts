export const INSTRUMENT_KINDS = ['share', 'fund', 'future', 'option', 'spot', 'inverse', 'index'] as const;
export type InstrumentKind = (typeof INSTRUMENT_KINDS)[number];
