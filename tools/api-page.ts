// Writes docs/api.md from the schemas that requests are checked with.
import { writeFileSync } from 'node:fs';
import { OPERATIONS, type Operation } from '../src/schemas/operations.ts';

interface Schema {
  readonly type?: string | readonly string[];
  readonly format?: string;
  readonly enum?: readonly unknown[];
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly required?: readonly string[];
  readonly items?: Schema;
  readonly oneOf?: readonly Schema[];
}

const NAMES: Readonly<Record<string, string>> = { dec: 'dec', 'iso-time': 'time', 'given-name': 'name' };

function words(schema: Schema): string {
  if (schema.enum) return schema.enum.map((one) => JSON.stringify(one)).join(' | ');
  if (schema.oneOf) return schema.oneOf.map(words).join(' | ');
  if (schema.type === 'array') return `[${words(schema.items ?? {})}]`;
  if (schema.properties)
    return `{ ${Object.entries(schema.properties)
      .map(([name, of]) => `${name}${schema.required?.includes(name) ? '' : '?'}: ${words(of)}`)
      .join(', ')} }`;
  const types = typeof schema.type === 'string' ? [schema.type] : (schema.type ?? ['any']);
  return types.map((type) => (type === 'string' && schema.format ? (NAMES[schema.format] ?? 'string') : type)).join(' | ');
}

const lines = [
  '# The HTTP API',
  '',
  'Made from the schemas by `npm run docs`. JSON; `dec` is a decimal string, `time` an ISO time. Errors are problems of RFC 9457. The same as OpenAPI 3.1: `/api/openapi.json`.',
  '',
];
for (const [name, operation] of Object.entries(OPERATIONS) as [string, Operation][]) {
  lines.push(`## ${name}`, '', `${operation.summary}.${operation.open ? ' Without sign-in.' : ''}`, '');
  for (const [parameter, schema] of Object.entries(operation.query ?? {}))
    lines.push(`- \`?${parameter}\`${operation.requiredQuery?.includes(parameter) ? ' (needed)' : ''}: \`${words(schema)}\``);
  if (operation.query) lines.push('');
  if (operation.body) lines.push('Takes', '', '```', words(operation.body), '```', '');
  for (const [status, schema] of Object.entries(operation.answers))
    lines.push(schema === null ? `Answers ${status}.` : `Answers ${status}`, '', ...(schema === null ? [] : ['```', words(schema), '```', '']));
}
writeFileSync('docs/api.md', `${lines.join('\n').trimEnd()}\n`);
