/** A value in a phrase, as the server tells it of an instrument. */
export interface PhrasePart {
  readonly from: number;
  readonly to: number;
  readonly value: string | null;
}

const short = (value: string): string => (value.includes('.') && value.length > 9 ? String(Number(Number(value).toPrecision(6))) : value);
const PAIR = 2;

/** How far a condition is from being true, in words: what it looks at, and of two figures how far they are apart. */
export function distanceWords(phrase: string, value: boolean | null, parts: readonly PhrasePart[]): string {
  const seen = parts.map(({ from, to, value: is }) => `${phrase.slice(from, to)} ${is === null ? 'unknown' : short(is)}`).join(', ');
  if (value === true) return seen === '' ? 'true now' : `true now: ${seen}`;
  if (value === null) return seen === '' ? 'not known' : `not known: ${seen}`;
  const figures = parts.flatMap(({ value: is }) => (is === null || Number.isNaN(Number(is)) ? [] : [Number(is)]));
  const bare = /[<>]=?\s*(-?\d+(?:\.\d+)?)\s*$/.exec(phrase)?.[1];
  const [one, other] = parts.length === 1 && bare !== undefined ? [figures[0], Number(bare)] : parts.length === PAIR ? figures : [];
  if (one === undefined || other === undefined || one === 0) return seen;
  const away = Math.abs((other - one) / one) * 100;
  return `${seen}: ${away < 10 ? away.toFixed(2) : away.toFixed(0)} % away`;
}
