import { mkdirSync, writeFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { ValidateFunction } from 'ajv';
import { expect } from 'chai';
import fc from 'fast-check';
import { formats } from '../../src/schemas/formats.ts';
import { FORM_BODIES, type FormName } from '../../src/schemas/forms.ts';
import type { OperationName } from '../../src/schemas/operations.ts';
import { errorsOf } from '../../src/schemas/shape-errors.ts';
import { bodyErrors } from '../../src/schemas/validate.ts';
import { compiledCheck } from '../../tools/checks.mjs';

/** What takes the body that a form makes. */
const TAKEN_BY: Readonly<Record<FormName, OperationName>> = {
  signIn: 'POST /api/session',
  secondStep: 'DELETE /api/session/second-step',
  token: 'POST /api/tokens',
  order: 'POST /api/orders/preview',
  exitPlan: 'POST /api/exit-plans',
  alert: 'POST /api/alerts',
  setup: 'PUT /api/positions/{account}/{instrument}/setup',
  commission: 'POST /api/accounts/{id}/commission',
  cashRequest: 'POST /api/cash-requests',
  application: 'POST /api/applications',
  rules: 'PUT /api/rule-templates/{name}',
  scan: 'PUT /api/scans/{name}',
  settings: 'PUT /api/settings',
};

/** A form's check as the browser has it: compiled, and run as a module. */
async function compiled(name: FormName): Promise<ValidateFunction> {
  const folder = resolve(import.meta.dirname, '../../.cache/checks');
  mkdirSync(folder, { recursive: true });
  const file = resolve(folder, `${name}.mjs`);
  const own = pathToFileURL(resolve(import.meta.dirname, '../../src/schemas/formats.ts')).href;
  const code = compiledCheck(FORM_BODIES[name], formats);
  writeFileSync(file, code.replace(`'/src/schemas/formats.ts'`, `'${own}'`));
  return ((await import(pathToFileURL(file).href)) as { default: ValidateFunction }).default;
}

const text = fc.oneof(
  fc.constantFrom(
    '',
    ' ',
    '41.20',
    '41,20',
    '-1',
    '1e3',
    '0.00000001',
    '12345678901234567890',
    'GANET.HALM',
    'MAIN',
    'limit',
    'buy',
    '2026-03-02T15:00:00.000Z',
  ),
  fc.string({ maxLength: 80 }),
);
const value = fc.oneof(text, text, fc.integer(), fc.boolean(), fc.constant(null), fc.record({ unit: text, value: text }), fc.array(text, { maxLength: 3 }));

for (const name of Object.keys(FORM_BODIES) as FormName[])
  describe(`the compiled check of the form ${name}`, () => {
    let check: ValidateFunction;
    before(async () => {
      check = await compiled(name);
    });

    it('finds what the server finds, word for word, in any body', () => {
      const { properties, required = [] } = FORM_BODIES[name] as { properties: Readonly<Record<string, object>>; required?: readonly string[] };
      const fields = fc.constantFrom(...Object.keys(properties), 'unknown');
      fc.assert(
        fc.property(fc.dictionary(fields, value, { maxKeys: 8 }), fc.boolean(), (given, whole) => {
          const body = whole ? { ...Object.fromEntries(required.map((field) => [field, '41.20'])), ...given } : given;
          expect(check(body) ? [] : errorsOf(check)).to.deep.equal(bodyErrors(TAKEN_BY[name], body));
        }),
        { numRuns: 300 },
      );
    });
  });
