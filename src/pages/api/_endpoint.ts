import type { APIContext, APIRoute } from 'astro';
import type { Access } from '../../access/access.ts';
import type { Desk } from '../../desk/desk.ts';
import { running } from '../../desk/running.ts';
import type { SavedStore } from '../../desk/saved.ts';
import { OPERATIONS, type OperationName } from '../../schemas/operations.ts';
import { bodyErrors, readQuery } from '../../schemas/validate.ts';
import { invalid, problem } from './_problem.ts';

const MOST_BYTES = 1024 * 1024;
const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const;
type Method = (typeof METHODS)[number];

/** A request that was checked: who asks, what is asked. */
export interface Call {
  readonly desk: Desk;
  readonly access: Access;
  readonly saved: SavedStore;
  readonly user: string;
  /** The user's own accounts. */
  readonly accounts: readonly string[];
  readonly query: Readonly<Record<string, string | number | undefined>>;
  readonly body: never;
  readonly context: APIContext;
  parameter(name: string): string;
}

type Handler = (call: Call) => Promise<Response> | Response;

/** Answers a path: the right method, a body and a query of the right shape, then the handler. */
export function endpoint(path: string, handlers: Partial<Record<Method, Handler>>): APIRoute {
  const allowed = METHODS.filter((method) => handlers[method]);
  return async (context) => {
    const method = context.request.method === 'HEAD' ? 'GET' : (context.request.method as Method);
    const handler = handlers[method];
    const name = `${method} ${path}`;
    if (!handler || !(name in OPERATIONS))
      return problem(405, 'validation', `${context.request.method} is not possible here; accepted: ${allowed.join(', ')}.`, {}, { allow: allowed.join(', ') });
    const at = running<Access>();
    if (!at) return problem(503, 'unavailable', 'Kavix is starting.');
    const operation = name as OperationName;
    const { query, errors } = readQuery(operation, context.url.searchParams);
    if (errors.length > 0) return invalid(errors);
    let body: unknown;
    if ('body' in OPERATIONS[operation]) {
      const read = await readBody(context.request);
      if (read instanceof Response) return read;
      body = read.body;
      const wrong = bodyErrors(operation, body);
      if (wrong.length > 0) return invalid(wrong);
    }
    const user = context.locals.user ?? '';
    return handler({
      desk: at.desk,
      access: at.access,
      saved: at.saved,
      user,
      accounts: at.desk.accountsOf(user),
      query,
      body: body as never,
      context,
      parameter: (parameter) => context.params[parameter] ?? '',
    });
  };
}

async function readBody(request: Request): Promise<{ body: unknown } | Response> {
  const type = request.headers.get('content-type') ?? '';
  if (!/^application\/json(;|$)/i.test(type.trim())) return problem(415, 'validation', 'The body must be JSON, with content-type application/json.');
  if (Number(request.headers.get('content-length') ?? 0) > MOST_BYTES) return tooLarge();
  let bytes: Uint8Array;
  try {
    bytes = new Uint8Array(await request.arrayBuffer());
  } catch {
    return problem(400, 'validation', 'The body broke off.');
  }
  if (bytes.length > MOST_BYTES) return tooLarge();
  try {
    return { body: JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes)) as unknown };
  } catch {
    return problem(400, 'validation', 'The body is not JSON.');
  }
}

const tooLarge = (): Response => problem(413, 'validation', 'The body is larger than 1 MiB.');

export const json = (status: number, body: unknown, headers: HeadersInit = {}): Response =>
  new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json', 'cache-control': 'no-store', ...headers } });

/** The account a query or body names, or all of the user's; a Response where it is not theirs. */
export function ownAccounts(call: Call, account: string | number | undefined, path: string): readonly string[] | Response {
  if (account === undefined) return call.accounts;
  return call.accounts.includes(String(account))
    ? [String(account)]
    : invalid([{ path, message: `${String(account)} is not one of your accounts; accepted: ${call.accounts.join(', ')}` }]);
}

/** The instrument a query or body names; a Response where there is none such. */
export function knownInstrument(call: Call, instrument: string | number | undefined, path: string): Response | null {
  if (instrument === undefined || call.desk.market.find(String(instrument))) return null;
  return invalid([{ path, message: `${String(instrument)} is not known` }]);
}

interface PageQuery {
  readonly before: number | null;
  readonly after: number | null;
  readonly limit: number;
}

export function pageQuery(call: Call): PageQuery {
  const { before, after, limit } = call.query;
  return { before: before === undefined ? null : Number(before), after: after === undefined ? null : Number(after), limit: Number(limit ?? 100) };
}

/** A page as the API lists them: cursors are the sequence numbers of its ends. */
export function pageOf<T extends { readonly seq: number }>(
  found: { items: readonly T[]; more: boolean },
  asked: PageQuery,
  present: (item: T) => unknown,
): object {
  const { items, more } = found;
  const last = items[items.length - 1]?.seq ?? asked.after ?? 0;
  return { items: items.map(present), before: more ? String(items[0]?.seq ?? 0) : null, after: String(last) };
}
