/** The line over the lower edge of an order area that says what a press does; nothing where nothing is aimed at. */
export const WORDS_LINE = 'pointer-events-none absolute inset-x-0 bottom-0 z-[25] min-h-[20px] bg-raised px-[6px] text-[12px] leading-[20px] empty:hidden';
