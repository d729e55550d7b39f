import { Readable } from 'node:stream';
import type { ReadableStream } from 'node:stream/web';
import type { APIContext, APIRoute } from 'astro';
import Papa from 'papaparse';
import type { Access } from '../../access/access.ts';
import type { Desk } from '../../desk/desk.ts';
import { running } from '../../desk/running.ts';
import type { Consents } from '../../desk/consents.ts';
import type { Baskets } from '../../desk/baskets/baskets.ts';
import type { Finding } from '../../desk/finding/finding.ts';
import type { Past } from '../../desk/review/past.ts';
import type { Review } from '../../desk/review/review.ts';
import type { SavedStore } from '../../desk/saved.ts';
import { OPERATIONS, type OperationName } from '../../schemas/operations.ts';
import { bodyErrors, compileChecks, readQuery } from '../../schemas/validate.ts';
import { methodOf, MOST_BYTES, readBytes } from './_body.ts';
import { invalid, problem } from './_problem.ts';

const UTF_8 = new TextDecoder('utf-8', { fatal: true });
const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const;
type Method = (typeof METHODS)[number];

/** A request that was checked: who asks, what is asked. */
export interface Call {
  readonly desk: Desk;
  readonly access: Access;
  readonly saved: SavedStore;
  readonly consents: Consents;
  readonly finding: Finding;
  readonly baskets: Baskets;
  readonly review: Review;
  readonly past: Past;
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
  for (const method of allowed) if (`${method} ${path}` in OPERATIONS) compileChecks(`${method} ${path}` as OperationName);
  return async (context) => {
    const asked = methodOf(context);
    const method = asked === 'HEAD' ? 'GET' : (asked as Method);
    const handler = handlers[method];
    const name = `${method} ${path}`;
    if (!handler || !(name in OPERATIONS))
      return problem(405, 'validation', `${asked} is not possible here; accepted: ${allowed.join(', ')}.`, {}, { allow: allowed.join(', ') });
    const at = running<Access>();
    if (!at) return problem(503, 'unavailable', 'Kavix is starting.');
    const operation = name as OperationName;
    const { query, errors } = readQuery(operation, context.url.searchParams);
    if (errors.length > 0) return invalid(errors);
    let body: unknown;
    const told = context.request.headers.get('content-type') !== null;
    if ('body' in OPERATIONS[operation] || ('optionalBody' in OPERATIONS[operation] && told)) {
      const read = await readBody(context);
      if (read instanceof Response) return read;
      body = read.body;
      const wrong = bodyErrors(operation, body);
      if (wrong.length > 0) return invalid(wrong);
    }
    const user = context.locals.user ?? '';
    return answer(handler, {
      desk: at.desk,
      access: at.access,
      saved: at.saved,
      consents: at.consents,
      finding: at.finding,
      baskets: at.baskets,
      review: at.review,
      past: at.past,
      user,
      accounts: at.desk.accountsOf(user),
      query,
      body: body as never,
      context,
      parameter: (parameter) => context.params[parameter] ?? '',
    });
  };
}

/** The only failure that an answer is given for: what is kept can't be read just now. */
async function answer(handler: Handler, call: Call): Promise<Response> {
  try {
    return await handler(call);
  } catch (error) {
    if ((error as Error).name !== 'TablesBehind') throw error;
    return problem(503, 'unavailable', (error as Error).message);
  }
}

async function readBody({ request, locals }: APIContext): Promise<{ body: unknown } | Response> {
  const type = request.headers.get('content-type') ?? '';
  if (!/^application\/json(;|$)/i.test(type.trim())) return problem(415, 'validation', 'The body must be JSON, with content-type application/json.');
  if (Number(request.headers.get('content-length') ?? 0) > MOST_BYTES) return tooLarge();
  const bytes = await (locals.asked?.body ?? readBytes(Readable.fromWeb((request.body ?? new Blob().stream()) as ReadableStream)));
  if (bytes === 'too large') return tooLarge();
  if (bytes === 'broken off') return problem(400, 'validation', 'The body broke off.');
  try {
    return { body: JSON.parse(UTF_8.decode(bytes)) as unknown };
  } catch {
    return problem(400, 'validation', 'The body is not JSON.');
  }
}

const tooLarge = (): Response => problem(413, 'validation', 'The body is larger than 1 MiB.');

export const json = (status: number, body: unknown, headers: HeadersInit = {}): Response =>
  new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json', 'cache-control': 'no-store', ...headers } });

/** A list as CSV (RFC 4180): columns as its fields, lists in a cell parted by blanks. */
export const csv = (name: string, columns: readonly string[], rows: readonly object[]): Response =>
  new Response(`${Papa.unparse([columns, ...rows.map((row) => columns.map((column) => cell(row, column)))], { newline: '\r\n' })}\r\n`, {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'cache-control': 'no-store',
      'content-disposition': `attachment; filename="${name}.csv"`,
    },
  });

function cell(row: object, column: string): unknown {
  const value = (row as Readonly<Record<string, unknown>>)[column];
  return Array.isArray(value) ? value.join(' ') : value;
}

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

/** A page as a store finds it, and whether there are older ones: one more than wanted is asked for. */
export async function withMore<T extends { readonly seq: number }>(
  asked: PageQuery,
  find: (page: { before?: number; after?: number; limit: number }) => Promise<T[]>,
): Promise<{ items: T[]; more: boolean }> {
  const { before, after, limit } = asked;
  if (after === null) {
    const found = await find({ ...(before === null ? {} : { before }), limit: limit + 1 });
    return { items: found.slice(-limit), more: found.length > limit };
  }
  const items = await find({ after, limit });
  const first = items[0];
  return { items, more: first !== undefined && (await find({ before: first.seq, limit: 1 })).length > 0 };
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
