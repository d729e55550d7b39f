import { timingSafeEqual } from 'node:crypto';
import type { APIContext } from 'astro';
import { defineMiddleware } from 'astro:middleware';
import type { Access } from './access/access.ts';
import { running } from './desk/running.ts';
import { methodOf } from './pages/api/_body.ts';
import { problem } from './pages/api/_problem.ts';

const COOKIE = 'kavix';
const OPEN = new Set(['GET /api/health', 'HEAD /api/health', 'GET /api/openapi.json', 'POST /api/session']);
const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

const same = (a: string, b: string): boolean => a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));

/** Who asks? Session by cookie, user by token; the CSRF token guards what a cookie may change. */
export const onRequest = defineMiddleware(async (context, next) => {
  const { request, locals, cookies, url } = context;
  locals.user = null;
  locals.session = null;
  locals.credential = null;
  const api = url.pathname.startsWith('/api/');
  const at = running<Access>();
  if (at) {
    const bearer = /^Bearer (\S+)$/.exec(request.headers.get('authorization') ?? '')?.[1];
    const cookie = cookies.get(COOKIE)?.value;
    if (bearer !== undefined) {
      const token = await at.access.tokenOf(bearer);
      locals.user = token?.user ?? null;
      locals.credential = token && { id: token.id, until: token.expiresAt };
    } else if (cookie !== undefined) {
      locals.session = await at.access.sessionOf(cookie);
      locals.user = locals.session?.user ?? null;
      locals.credential = locals.session && { id: locals.session.id, until: locals.session.expiresAt };
    }
  }
  return api ? (guard(context, url.pathname, at !== null) ?? next()) : page(context.locals, url.pathname, next);
});

/** Why an API call may not go on, or null. */
function guard(context: APIContext, path: string, ready: boolean): Response | null {
  const { request, locals } = context;
  const method = methodOf(context);
  const clean = path.length > 1 ? path.replace(/\/$/, '') : path;
  if (OPEN.has(`${method} ${clean}`)) return null;
  if (!ready) return problem(503, 'unavailable', 'Kavix is starting.');
  if (locals.user === null) return problem(401, 'unauthenticated', 'Sign in first, or send a valid token.', {}, { 'www-authenticate': 'Bearer' });
  if (locals.session && !SAFE.has(method) && !same(request.headers.get('x-csrf-token') ?? '', locals.session.csrf))
    return problem(403, 'forbidden', 'The X-CSRF-Token header is missing or wrong; GET /api/session tells it.');
  return null;
}

async function page(locals: App.Locals, path: string, next: () => Promise<Response>): Promise<Response> {
  const open = path.startsWith('/sign-in') || path.startsWith('/_astro') || path.startsWith('/live');
  if (locals.user === null && !open) return new Response(null, { status: 302, headers: { location: '/sign-in' } });
  return next();
}
