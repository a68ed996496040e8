// Pieces of JSON schemas that all documents are made of.
export const object = <P extends Record<string, unknown>>(properties: P) =>
  ({ type: 'object', additionalProperties: false, required: Object.keys(properties) as Array<keyof P & string>, properties }) as const;
export const keyed = <S>(schema: S) =>
  ({ type: 'object', additionalProperties: schema, maxProperties: 4096, propertyNames: { pattern: '^[A-Za-z0-9_-]{1,64}$' } }) as const;
export const number = <A extends number, B extends number>(minimum: A, maximum: B) => ({ type: 'number', minimum, maximum }) as const;
export const whole = <A extends number, B extends number>(minimum: A, maximum: B) => ({ type: 'integer', minimum, maximum }) as const;
export const text = { type: 'string', minLength: 1, maxLength: 200 } as const;
export const order = number(-1e9, 1e9);
export const unit = number(0, 1);
export const seed = whole(0, 0xffffff);
export const HASH = { type: 'string', pattern: '^[0-9a-f]{64}$' } as const;
/** Properties that may be left out. */
export const some = <P extends Record<string, unknown>>(properties: P) => ({ type: 'object', additionalProperties: false, properties }) as const;
export const optional = <S>(schema: S) => ({ anyOf: [schema, { type: 'null' }] }) as const;
export const colour = { type: 'string', pattern: '^#[0-9a-f]{6}$' } as const;
export const flag = { type: 'boolean' } as const;
export const id = { type: 'string', minLength: 1, maxLength: 64 } as const;
