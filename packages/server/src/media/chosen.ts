import { ValidationError, type AnySchema, type InferType } from 'yup';

/** What is set up in a file of JSON by whoever runs the library. Throws an error that says what is wrong with it. */
export function readJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new Error(`It is no JSON (${(error as Error).message}).`, { cause: error });
  }
}

/** Checks that it says what it must. Throws an error that says in which way it does not. */
export function checked<S extends AnySchema>(schema: S, said: unknown): InferType<S> {
  try {
    schema.validateSync(said, { strict: true });
    // Only now: what is checked strictly is not given what it leaves out.
    return schema.cast(said);
  } catch (error) {
    throw new Error(error instanceof ValidationError ? error.errors.join(' ') : String(error), { cause: error });
  }
}
