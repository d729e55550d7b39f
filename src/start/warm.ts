import { OPERATIONS } from '../schemas/operations.ts';

/** What a trader's first order needs. */
export const FIRST_PATHS: readonly string[] = ['/api/session', '/api/stream', '/api/orders', '/api/orders/preview'];

/** Every other path of the API. */
export const OTHER_PATHS: readonly string[] = [
  ...new Set(Object.keys(OPERATIONS).map((name) => (name.split(' ')[1] ?? '').replaceAll(/\{\w+\}/g, '-'))),
].filter((path) => !FIRST_PATHS.includes(path));

/** Asks for paths once before anybody else does: pages are loaded and their checks compiled when they are first asked for. */
export async function warm(address: string, paths: readonly string[]): Promise<void> {
  for (const path of paths) await fetch(address + path).then((response) => response.arrayBuffer());
}
