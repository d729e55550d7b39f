/** Values that all shapes are made of. `format` names are checked by {@link ./formats.ts}. */

export const dec = { type: 'string', format: 'dec', description: 'Decimal string, at most 18 digits.' } as const;
export const decOrNull = { type: ['string', 'null'], format: 'dec' } as const;
export const time = { type: 'string', format: 'iso-time', description: 'ISO 8601 with milliseconds and Z.' } as const;
export const timeOrNull = { type: ['string', 'null'], format: 'iso-time' } as const;
export const id = { type: 'string', pattern: '^[A-Za-z0-9._-]{1,64}$' } as const;
export const idOrNull = { type: ['string', 'null'] } as const;
export const text = { type: 'string' } as const;
export const textOrNull = { type: ['string', 'null'] } as const;
export const int = { type: 'integer' } as const;
export const intOrNull = { type: ['integer', 'null'] } as const;
export const bool = { type: 'boolean' } as const;
/** A name that a trader gives: printing characters, no blank at either end. */
export const givenName = { type: 'string', minLength: 1, maxLength: 64, format: 'given-name' } as const;
export const side = { type: 'string', enum: ['buy', 'sell'] } as const;

/** An object in which every field is present and no other is. */
export const shape = <const P extends Readonly<Record<string, unknown>>>(properties: P) =>
  ({ type: 'object', properties, required: Object.keys(properties) as (keyof P & string)[], additionalProperties: false }) as const;

/** The same with properties that may be missing. Which these are is told to the types alone. */
export const maybeWith = <const S extends { readonly properties: object }, const P extends Readonly<Record<string, unknown>>>(of: S, more: P) =>
  ({ ...of, properties: { ...of.properties, ...more } }) as unknown as S & { readonly maybe: P };

export const list = <const S>(items: S) => ({ type: 'array', items }) as const;

interface Primitives {
  string: string;
  integer: number;
  number: number;
  boolean: boolean;
  null: null;
  object: Readonly<Record<string, unknown>>;
}
type Primitive<T> = T extends keyof Primitives ? Primitives[T] : unknown;

/** The TypeScript type of what a schema describes: one source for Ajv, OpenAPI and the code. */
export type ShapeOf<S> = S extends { readonly enum: readonly (infer E)[] }
  ? E
  : S extends { readonly oneOf: readonly (infer O)[] }
    ? ShapeOf<O>
    : S extends { readonly type: 'array'; readonly items: infer I }
      ? readonly ShapeOf<I>[]
      : S extends { readonly type: 'object'; readonly properties: infer P; readonly maybe: infer M }
        ? { readonly [K in keyof P]: ShapeOf<P[K]> } & { readonly [K in keyof M]?: ShapeOf<M[K]> }
        : S extends { readonly type: 'object'; readonly properties: infer P }
          ? { readonly [K in keyof P]: ShapeOf<P[K]> }
          : S extends { readonly type: readonly (infer T)[] }
            ? Primitive<T>
            : S extends { readonly type: infer T }
              ? Primitive<T>
              : unknown;
