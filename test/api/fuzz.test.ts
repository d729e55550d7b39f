import { expect } from 'chai';
import { Chance } from '../../src/core/random/index.ts';
import { OPERATIONS } from '../../src/schemas/operations.ts';
import { Client, dropFolder, startServer, type Reply, type Server } from '../support/server.ts';

interface Schema {
  readonly type?: string | readonly string[];
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly required?: readonly string[];
  readonly items?: Schema;
  readonly enum?: readonly unknown[];
  readonly const?: unknown;
  readonly oneOf?: readonly Schema[];
  readonly anyOf?: readonly Schema[];
  readonly minimum?: number;
  readonly minItems?: number;
  readonly pattern?: string;
  readonly format?: string;
}
interface Operation {
  /** It answers whoever asks, and takes no notice of what it does not know. */
  readonly open?: boolean;
  readonly body?: Schema;
  readonly query?: Readonly<Record<string, Schema>>;
}
interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail: string;
  readonly errors?: readonly { readonly path: string; readonly message: string }[];
}

/** Names that lead somewhere in a world, so that more than the path is looked at. */
const IN_PATHS: Readonly<Record<string, string>> = { account: 'MAIN', instrument: 'GANET.HALM', underlying: 'GANET.HALM', day: '2026-03-02' };
/** What ends or signs the caller out would leave nothing to ask. */
const LEFT_OUT = new Set([
  'DELETE /api/session',
  'POST /api/session',
  'POST /api/session/second-step',
  'DELETE /api/session/second-step',
  'DELETE /api/sessions',
]);
const OPERATION_NAMES = Object.keys(OPERATIONS).filter((name) => !LEFT_OUT.has(name));
const operation = (name: string): Operation => OPERATIONS[name as keyof typeof OPERATIONS] as unknown as Operation;

/** Something of the right shape, not always of the right sense. */
function sample(schema: Schema, chance: Chance): unknown {
  if (schema.const !== undefined) return schema.const;
  if (schema.enum) return schema.enum[chance.below(schema.enum.length)];
  const choices = schema.oneOf ?? schema.anyOf;
  if (choices) return sample(choices[chance.below(choices.length)] as Schema, chance);
  const type = typeof schema.type === 'string' ? schema.type : (schema.type?.[0] ?? 'object');
  switch (type) {
    case 'object':
      return Object.fromEntries(
        Object.entries(schema.properties ?? {}).flatMap(([key, of]) =>
          schema.required?.includes(key) || chance.below(3) === 0 ? [[key, sample(of, chance)]] : [],
        ),
      );
    case 'array':
      return Array.from({ length: schema.minItems ?? chance.below(3) }, () => sample(schema.items ?? {}, chance));
    case 'integer':
    case 'number':
      return (schema.minimum ?? 0) + chance.below(3);
    case 'boolean':
      return chance.below(2) === 0;
    case 'null':
      return null;
    default:
      return chance.pick(['MAIN', 'GANET.HALM', '1', '41.20', 'x', '2026-03-02', '2026-03-02T10:00:00.000Z', 'buy']);
  }
}

const WRONG: readonly unknown[] = [
  null,
  7,
  -1.5,
  '',
  'x'.repeat(5000),
  [],
  {},
  [[]],
  true,
  '\u0000',
  '９',
  'NaN',
  '1e9',
  '-0',
  '99999999999999999999',
  { $gt: '' },
];

/** A body with one of its parts, however deep, made into something else. */
function spoilt(body: unknown, chance: Chance): unknown {
  if (typeof body !== 'object' || body === null || chance.below(4) === 0) return chance.pick(WRONG);
  const keys = Object.keys(body);
  if (keys.length === 0) return { [chance.pick(['colour', '__proto__', 'constructor'])]: chance.pick(WRONG) };
  const key = keys[chance.below(keys.length)] as string;
  const of = body as Record<string, unknown>;
  if (Array.isArray(body)) return body.map((one: unknown, i) => (String(i) === key ? spoilt(one, chance) : one));
  return chance.below(6) === 0 ? { ...of, colour: 'red' } : { ...of, [key]: spoilt(of[key], chance) };
}

const pathOf = (name: string): string => (name.split(' ')[1] ?? '').replace(/\{(\w+)\}/g, (_, part: string) => encodeURIComponent(IN_PATHS[part] ?? 'MAIN-1'));

/** A refusal that a trader can do something with: a problem in JSON that says what, and where. */
function expectRefusal(reply: Reply, said: string): void {
  const body = reply.body as Problem;
  expect(reply.headers.get('content-type'), said).to.equal('application/problem+json');
  expect(body.status, said).to.equal(reply.status);
  expect(body.type, said).to.match(/^\/problems\/[a-z-]+$/);
  expect(body.detail.length, said).to.be.greaterThan(0);
  if (reply.status !== 422 || body.type !== '/problems/validation') return;
  expect(body.errors?.length, said).to.be.greaterThan(0);
  for (const { path, message } of body.errors ?? []) {
    expect(path, said).to.match(/^($|\/|\?)/);
    expect(message.length, said).to.be.greaterThan(0);
  }
}

describe('every call, with whatever is sent', function () {
  this.timeout(180_000);
  let server: Server;
  let client: Client;
  before(async () => {
    server = await startServer({ KAVIX_CLOCK: 'manual', KAVIX_LOG: 'silent' });
    client = await Client.signIn(server.address);
  });
  after(async () => {
    await server.stop();
    dropFolder(server.folder);
  });

  it('does it, or refuses in words at the place that is wrong; never 5xx', async () => {
    const chance = new Chance(20_260_302);
    let refused = 0;
    for (const name of OPERATION_NAMES.filter((one) => operation(one).body)) {
      const [method = ''] = name.split(' ');
      for (let i = 0; i < 14; i++) {
        const right = sample(operation(name).body as Schema, chance);
        const body = i % 7 === 0 ? right : spoilt(right, chance);
        const said = `${name} ${JSON.stringify(body)?.slice(0, 300)}`;
        const reply = await client.call(method, pathOf(name), JSON.stringify(body));
        // The link may have been put down on the way.
        if (reply.status === 503) await client.post('/api/link', { broker: 'up', data: 'up' });
        else expect(reply.status, said).to.be.below(500);
        if (reply.status < 400) continue;
        expectRefusal(reply, said);
        refused++;
      }
    }
    expect(refused).to.be.greaterThan(300);
  });

  it('names an unknown or unreadable part of the query', async () => {
    for (const name of OPERATION_NAMES.filter((one) => one.startsWith('GET ') && !one.endsWith('/api/stream') && !operation(one).open)) {
      const path = pathOf(name);
      const unknown = await client.get(`${path}?colour=red`);
      if (unknown.status !== 404)
        expect(
          (unknown.body as Problem).errors?.map((one) => one.path),
          name,
        ).to.include('?colour');
      for (const key of Object.keys(operation(name).query ?? {}))
        for (const value of ['', '%00', '-1', 'x'.repeat(300), '%F0%9F%90%9F', '1e9']) {
          const reply = await client.get(`${path}?${key}=${value}`);
          expect(reply.status, `${name} ?${key}=${value.slice(0, 20)}`).to.be.below(500);
          if (reply.status >= 400) expectRefusal(reply, `${name} ?${key}=${value.slice(0, 20)}`);
        }
    }
  });

  it('and serves afterwards as before', async () => {
    await client.post('/api/link', { broker: 'up', data: 'up' });
    const order = { clientOrderId: 'after', account: 'MAIN', instrument: 'GANET.HALM', side: 'buy', type: 'limit', quantity: '1', limitPrice: '38.00' };
    expect((await client.post('/api/orders', order)).status).to.be.oneOf([201, 422]);
    expect((await client.get('/api/health')).status).to.equal(200);
  });
});
