// A Vite plugin: the checks of forms, compiled when Kavix is built, for the browser's rules allow no code made at run time.
import { Ajv, _ } from 'ajv';
import standalone from 'ajv/dist/standalone/index.js';

const VIRTUAL = 'virtual:checks';
/** What compiled checks ask for by the older way of asking. */
const REQUIRED = /const (\w+) = require\("([^"]+)"\)((?:\.\w+)*);/g;

/**
 * @param {Readonly<Record<string, object>>} schemas by the name that their checks are exported under
 * @param {Readonly<Record<string, (text: string) => boolean>>} formats those of `src/schemas/formats.ts`
 * @returns {import('vite').Plugin}
 */
export const checks = (schemas, formats) => ({
  name: 'kavix-checks',
  resolveId: (id) => (id === VIRTUAL ? `\0${VIRTUAL}` : null),
  load(id) {
    if (id !== `\0${VIRTUAL}`) return null;
    const ajv = new Ajv({ allErrors: true, verbose: true, strict: false, formats, code: { source: true, esm: true, formats: _`formats` } });
    const names = Object.keys(schemas);
    for (const name of names) ajv.addSchema(schemas[name], name);
    const code = standalone.default(ajv, Object.fromEntries(names.map((name) => [name, name])));
    const asked = [];
    const body = code.replace(REQUIRED, (_all, name, from, member) => {
      asked.push(`import ${name}_ from ${JSON.stringify(`${from}.js`)};`);
      return `const ${name} = ${name}_${member};`;
    });
    return [`import { formats } from '/src/schemas/formats.ts';`, ...asked, body].join('\n');
  },
});
