import { OPERATIONS } from '../schemas/operations.ts';

/** What a trader's first minute needs comes first. */
const FIRST = ['/api/session', '/api/stream', '/api/orders', '/api/orders/preview'];

/**
 * Asks every path of the API once before anybody else does: pages are loaded and their checks compiled when they are
 * first asked for, which would hold up the first order of the day.
 */
export async function warm(address: string): Promise<void> {
  const paths = new Set([...FIRST, ...Object.keys(OPERATIONS).map((name) => (name.split(' ')[1] ?? '').replaceAll(/\{\w+\}/g, '-'))]);
  for (const path of paths) await fetch(address + path).then((response) => response.arrayBuffer());
}
