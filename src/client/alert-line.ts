/** A line that asks to be told of something: from where on what is waited for stands in it, and whether it is a price. */
export interface AlertLine {
  readonly from: number;
  readonly of: string;
  readonly price: boolean;
}

const BEGINS = /^\s*tell (?:me )?when\s+/i;
const PRICE = /^\d+(?:\.\d+)?$/;

/** Reads what a line asks to be told of; null for one that asks for something else, or not yet for anything. */
export function alertLine(text: string): AlertLine | null {
  const begins = BEGINS.exec(text);
  const from = begins?.[0].length ?? 0;
  const of = text.slice(from).trimEnd();
  return begins === null || of === '' ? null : { from, of, price: PRICE.test(of) };
}
