import type { Readable } from 'node:stream';
import type { APIContext } from 'astro';

/** By what method it was asked. */
export const methodOf = ({ request, locals }: Pick<APIContext, 'request' | 'locals'>): string => locals.asked?.method ?? request.method;

export const MOST_BYTES = 1024 * 1024;

/** The bytes of a request's body, or why they are not there. */
export type Body = Uint8Array | 'too large' | 'broken off';

/** Reads a body; of one that is larger than allowed, whatever its length is said to be, nothing is kept. */
export const readBytes = (source: Readable): Promise<Body> =>
  new Promise((resolve) => {
    const parts: Buffer[] = [];
    let length = 0;
    source.on('data', (part: Buffer) => {
      length += part.length;
      if (length <= MOST_BYTES) return void parts.push(part);
      // What is still to come runs out unread: the connection is the next request's too.
      source.removeAllListeners('data');
      source.resume();
      resolve('too large');
    });
    source.once('end', () => resolve(Buffer.concat(parts)));
    for (const end of ['error', 'close']) source.once(end, () => resolve('broken off'));
  });
