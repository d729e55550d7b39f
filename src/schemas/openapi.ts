import { OPERATIONS, type Operation } from './operations.ts';
import { problem } from './problem.ts';

const json = (schema: object): object => ({ 'application/json': { schema } });

/** The API as OpenAPI 3.1, from the schemas that requests are checked with. */
export function openApi(): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const [name, operation] of Object.entries(OPERATIONS) as [string, Operation][]) {
    const [method = '', path = ''] = name.split(' ');
    const inPath = [...path.matchAll(/\{(\w+)\}/g)].map(([, parameter = '']) => ({ name: parameter, in: 'path', required: true, schema: { type: 'string' } }));
    const inQuery = Object.entries(operation.query ?? {}).map(([parameter, schema]) => ({
      name: parameter,
      in: 'query',
      required: operation.requiredQuery?.includes(parameter) ?? false,
      schema,
    }));
    const responses: Record<string, object> = Object.fromEntries(
      Object.entries(operation.answers).map(([status, schema]) => [
        status,
        schema === null ? { description: 'Done' } : { description: 'Done', content: json(schema) },
      ]),
    );
    responses['default'] = { description: 'A problem (RFC 9457)', content: { 'application/problem+json': { schema: problem } } };
    (paths[path] ??= {})[method.toLowerCase()] = {
      summary: operation.summary,
      ...(operation.open ? { security: [] } : {}),
      parameters: [...inPath, ...inQuery],
      ...(operation.body ? { requestBody: { required: true, content: json(operation.body) } } : {}),
      ...(operation.optionalBody ? { requestBody: { required: false, content: json(operation.optionalBody) } } : {}),
      responses,
    };
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Kavix', version: '1', description: 'The HTTP API of Kavix. Decimals are strings; times are ISO 8601 with milliseconds.' },
    security: [{ cookie: [] }, { token: [] }],
    components: { securitySchemes: { cookie: { type: 'apiKey', in: 'cookie', name: 'kavix' }, token: { type: 'http', scheme: 'bearer' } } },
    paths,
  };
}
