import type { FieldRegistry } from '@larder/core/fields';
import { ValidationError } from 'yup';
import { ROUTES, type BodyOf, type Route, type RouteName } from './routes';

/**
 * What a request says, by the schema of its route and the library's fields; null where the route reads no body. Throws Yup's ValidationError with all that
 * is wrong, and nothing else: casting makes texts of values, which a hostile one can make throw by a `toString` of its own.
 */
export async function readBody<Name extends RouteName>(
  name: Name,
  sent: unknown,
  fields: FieldRegistry,
): Promise<BodyOf<Name>> {
  const { body }: Route = ROUTES[name];
  if (!body) return null;
  try {
    return (await body.validate(sent ?? {}, {
      abortEarly: false,
      stripUnknown: false,
      context: { fields },
    })) as BodyOf<Name>;
  } catch (error) {
    throw error instanceof ValidationError ? error : new ValidationError('The request cannot be read.', null, '');
  }
}
