import type { AddressInfo } from 'node:net';
import { createServer, STATUS_CODES, type RequestListener, type Server, type ServerResponse } from 'node:http';
import type { Duplex } from 'node:stream';

const NOT_A_PATH = JSON.stringify({ type: '/problems/not-found', title: 'Not found', status: 404, detail: 'There is nothing here by that name.' });

function readable(url: string): boolean {
  try {
    decodeURIComponent(url.split('?')[0] ?? '');
    return true;
  } catch {
    return false;
  }
}

const GIVEN_NAME = /^(\/api\/(?:workspaces|watchlists|study-sets|rule-templates|exit-plans|scans|baskets)\/)([^/?]+)(.*)$/;

/**
 * Names that a trader gives may hold anything that prints, a slash or a percent sign too, and not all of it gets
 * through the pages' router as it was meant. So in a path they go on in base64url, with a tilde before them.
 */
function carryName(url: string): string {
  const found = GIVEN_NAME.exec(url);
  if (!found) return url;
  const [, before = '', name = '', query = ''] = found;
  return `${before}~${Buffer.from(decodeURIComponent(name)).toString('base64url')}${query}`;
}

/** Ids, names in base64url, and the blanks of a live list's name, between single slashes. */
const PLAIN_PATH = /^(?:\/(?:[A-Za-z0-9._~-]|%20)+)+\/?$/;

/**
 * Where the API has nothing by a name that no id can be: the pages' router would answer such a path by itself, in
 * HTML. It goes on as one that nothing is at, so that who asks and how is judged as everywhere.
 */
function knownShape(url: string): string {
  const [path = ''] = url.split('?');
  return path.startsWith('/api/') && !PLAIN_PATH.test(path) ? '/api/-' : url;
}

/** Says in the answer how long the server had the request, as the standard Server-Timing header. */
function tellTiming(response: ServerResponse): void {
  const from = performance.now();
  const writeHead = response.writeHead.bind(response) as (...given: unknown[]) => ServerResponse;
  response.writeHead = (...given: unknown[]) => {
    response.setHeader('server-timing', `total;dur=${(performance.now() - from).toFixed(2)}`);
    return writeHead(...given);
  };
}

const NOT_READ: Readonly<Record<string, readonly [status: number, detail: string]>> = {
  HPE_HEADER_OVERFLOW: [431, 'The address and headers are longer than 16 KiB together.'],
  ERR_HTTP_REQUEST_TIMEOUT: [408, 'The request took too long to arrive.'],
};

/** Answers a request that Node could not read: there is no request to answer yet, only its connection. */
function refuseUnread(error: NodeJS.ErrnoException, connection: Duplex): void {
  if (error.code === 'ECONNRESET' || !connection.writable) {
    connection.destroy();
    return;
  }
  const [status, detail] = NOT_READ[error.code ?? ''] ?? [400, 'This is not a request in HTTP.'];
  const body = JSON.stringify({ type: '/problems/validation', title: 'Not accepted', status, detail });
  const head = ['content-type: application/problem+json', `content-length: ${Buffer.byteLength(body)}`, 'connection: close'];
  connection.end(`HTTP/1.1 ${status} ${STATUS_CODES[status] ?? ''}\r\n${head.join('\r\n')}\r\n\r\n${body}`);
}

/** What every answer says to the browser besides. */
const GUARDING = Object.entries({
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'same-origin',
  'x-frame-options': 'SAMEORIGIN',
  'cross-origin-opener-policy': 'same-origin',
});

/** The HTTP server before the built pages: nobody may say on whose behalf they come. */
export function makeServer(handler: RequestListener): Server {
  const server = createServer((request, response) => {
    for (const name of Object.keys(request.headers)) if (name.startsWith('x-forwarded-') || name === 'forwarded') delete request.headers[name];
    for (const [name, value] of GUARDING) response.setHeader(name, value);
    if (!readable(request.url ?? '/')) {
      response.writeHead(404, { 'content-type': 'application/problem+json' }).end(NOT_A_PATH);
      return;
    }
    request.url = knownShape(carryName(request.url ?? '/'));
    tellTiming(response);
    handler(request, response);
  });
  return server.on('clientError', refuseUnread);
}

/** The port could not be had, in words for the person who starts Kavix. */
export class PortUnusable extends Error {}

/** @returns the port it listens on: with 0 a free one */
export function listen(server: Server, host: string, port: number): Promise<number> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      const words =
        error.code === 'EADDRINUSE'
          ? `Port ${port} on ${host} is in use. Stop what uses it, or choose another one with PORT.`
          : `Kavix can't listen on ${host}:${port} (${error.code ?? error.message}). Choose another HOST or PORT.`;
      reject(new PortUnusable(words));
    });
    server.listen(port, host, () => resolve((server.address() as AddressInfo).port));
  });
}
