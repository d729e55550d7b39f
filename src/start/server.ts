import { createServer, type RequestListener, type Server, type ServerResponse } from 'node:http';

const NOT_A_PATH = JSON.stringify({ type: '/problems/not-found', title: 'Not found', status: 404, detail: 'There is nothing here by that name.' });

function readable(url: string): boolean {
  try {
    decodeURIComponent(url.split('?')[0] ?? '');
    return true;
  } catch {
    return false;
  }
}

const GIVEN_NAME = /^(\/api\/(?:workspaces|watchlists|study-sets)\/)([^?]+)(.*)$/;

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

/** Says in the answer how long the server had the request, as the standard Server-Timing header. */
function tellTiming(response: ServerResponse): void {
  const from = performance.now();
  const writeHead = response.writeHead.bind(response) as (...given: unknown[]) => ServerResponse;
  response.writeHead = (...given: unknown[]) => {
    response.setHeader('server-timing', `total;dur=${(performance.now() - from).toFixed(2)}`);
    return writeHead(...given);
  };
}

/** The HTTP server before the built pages: nobody may say on whose behalf they come. */
export function makeServer(handler: RequestListener): Server {
  return createServer((request, response) => {
    for (const name of Object.keys(request.headers)) if (name.startsWith('x-forwarded-') || name === 'forwarded') delete request.headers[name];
    if (!readable(request.url ?? '/')) {
      response.writeHead(404, { 'content-type': 'application/problem+json' }).end(NOT_A_PATH);
      return;
    }
    request.url = carryName(request.url ?? '/');
    tellTiming(response);
    handler(request, response);
  });
}

/** The port could not be had, in words for the person who starts Kavix. */
export class PortUnusable extends Error {}

export function listen(server: Server, host: string, port: number): Promise<void> {
  return new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      const words =
        error.code === 'EADDRINUSE'
          ? `Port ${port} on ${host} is in use. Stop what uses it, or choose another one with PORT.`
          : `Kavix can't listen on ${host}:${port} (${error.code ?? error.message}). Choose another HOST or PORT.`;
      reject(new PortUnusable(words));
    });
    server.listen(port, host, () => resolve());
  });
}
