import { Ajv } from 'ajv';
import { expect } from 'chai';
import { OPERATIONS, type Operation } from '../../src/schemas/operations.ts';

const ajv = new Ajv({ strict: false });

/** Every shape an operation speaks of, by what it is of. */
function shapesOf({ body, optionalBody, query = {}, answers }: Operation): [string, object | null | undefined][] {
  return [['body', body], ['optional body', optionalBody], ...Object.entries(query), ...Object.entries(answers)];
}

describe('the schemas', () => {
  // The server takes them as sound: it does not look at them again at each start.
  for (const [name, operation] of Object.entries(OPERATIONS))
    it(`of ${name} are schemas`, () => {
      for (const [of, shape] of shapesOf(operation)) if (shape) expect(ajv.validateSchema(shape), `${of}: ${ajv.errorsText()}`).to.equal(true);
    });

  it('are told from what is none', () => {
    expect(ajv.validateSchema({ type: 'sting' })).to.equal(false);
    expect(ajv.validateSchema({ properties: { a: { minimum: 'one' } } })).to.equal(false);
  });
});
