const DECIMAL = /^-?(0|[1-9]\d*)(\.\d+)?$/;
const TIME = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d{1,3})?Z$/;

/** The `format` names of {@link ./values.ts}. */
export const formats = {
  dec: (text: string): boolean => DECIMAL.test(text) && text.replace(/[-.]/g, '').length <= 18,
  'iso-time': (text: string): boolean => TIME.test(text) && !Number.isNaN(Date.parse(text)),
  // Printing characters, no blank at either end.
  'given-name': (text: string): boolean => text.trim() === text && !/[\p{C}\p{Zl}\p{Zp}]/u.test(text),
};

/** Whether a text may be the name of what a trader saves: 1 to 64 printing characters, no blank at either end. */
export const isGivenName = (text: string): boolean => text.length >= 1 && text.length <= 64 && formats['given-name'](text);

/** What a text of a format must be. */
export const FORMAT_WORDS: Readonly<Record<string, string>> = {
  dec: 'must be a decimal such as "41.20", at most 18 digits',
  'iso-time': 'must be a time such as "2026-03-02T09:00:00.000Z"',
  'given-name': 'must be 1 to 64 printing characters without a blank at either end',
};
