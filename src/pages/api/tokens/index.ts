import { endpoint, json } from '../_endpoint.ts';
import { invalid } from '../_problem.ts';

interface TokenLine {
  readonly id: string;
  readonly name: string;
  readonly createdAt: number;
  readonly expiresAt: number | null;
}

const iso = (time: number | null): string | null => (time === null ? null : new Date(time).toISOString());
const line = ({ id, name, createdAt, expiresAt }: TokenLine): object => ({ id, name, createdAt: iso(createdAt), expiresAt: iso(expiresAt) });

export const ALL = endpoint('/api/tokens', {
  GET: async (call) => json(200, { items: (await call.access.tokensOf(call.user)).map(line) }),
  POST: async (call) => {
    const { name, expiresAt } = call.body as { name: string; expiresAt?: string };
    if (expiresAt !== undefined && Date.parse(expiresAt) <= Date.now()) return invalid([{ path: '/expiresAt', message: 'must be later than now' }]);
    const { token, text } = await call.access.addToken(call.user, name, expiresAt === undefined ? null : Date.parse(expiresAt));
    return json(201, { ...line(token), token: text }, { location: `/api/tokens/${token.id}` });
  },
});
