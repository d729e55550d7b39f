// A Vite plugin: the checks of forms, compiled when Kavix is built, for the browser's rules allow no code made at run time.
import { Ajv, _ } from 'ajv';
import standalone from 'ajv/dist/standalone/index.js';

/** Each form's check is a module of its own: a form loads no other's. */
const VIRTUAL = 'virtual:checks/';
/** What compiled checks ask for by the older way of asking. */
const REQUIRED = /const (\w+) = require\("([^"]+)"\)\.default;/g;

/**
 * @param {object} schema
 * @param {Readonly<Record<string, (text: string) => boolean>>} formats those of `src/schemas/formats.ts`
 * @returns {string} a module whose default is the check
 */
export function compiledCheck(schema, formats) {
  const ajv = new Ajv({ allErrors: true, verbose: true, strict: false, formats, code: { source: true, esm: true, formats: _`formats` } });
  const asked = [`import { formats } from '/src/schemas/formats.ts';`];
  const code = standalone.default(ajv, ajv.compile(schema)).replace(REQUIRED, (_all, name, from) => {
    asked.push(`import ${name}_ from ${JSON.stringify(`${from}.js`)};`);
    return `const ${name} = ${name}_.default ?? ${name}_;`;
  });
  return [...asked, code].join('\n');
}

/**
 * @param {Readonly<Record<string, object>>} schemas by the names of their forms
 * @param {Parameters<typeof compiledCheck>[1]} formats
 * @returns {import('vite').Plugin}
 */
export const checks = (schemas, formats) => ({
  name: 'kavix-checks',
  resolveId: (id) => (id.startsWith(VIRTUAL) ? `\0${id}` : null),
  load: (id) => (id.startsWith(`\0${VIRTUAL}`) ? compiledCheck(schemas[id.slice(VIRTUAL.length + 1)], formats) : null),
});
