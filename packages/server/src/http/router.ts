import { randomUUID } from 'node:crypto';
import type { Express, NextFunction, Request, Response } from 'express';
import { ValidationError } from 'yup';
import type { FieldRegistry } from '@larder/core/fields';
import {
  readBody,
  ROUTES,
  STATUS_OF,
  wordApiError,
  type AnswerOf,
  type ApiError,
  type BodyOf,
  type Person,
  type Route,
  type RouteName,
} from '@larder/contract';
import { RequestError } from '../store/errors';
import { may } from './may';

/** What a handler is given: the checked body, the number from the path, and who asks. */
export interface Call<Name extends RouteName> {
  readonly body: BodyOf<Name>;
  readonly id: number;
  /** Null only on open routes. */
  readonly person: Person | null;
  readonly request: Request;
  readonly response: Response;
}

export type Handlers = { readonly [Name in RouteName]: (call: Call<Name>) => Promise<AnswerOf<Name>> };

/** On all but open routes `may` has seen to it that somebody is signed in. */
export function signedIn(person: Person | null): Person {
  if (!person) throw new RequestError({ code: 'not-signed-in' });
  return person;
}

export type Identify = (request: Request) => Promise<Person | null>;

/** Refuses what the person may not do; used by the routes and by everything that serves files. */
export async function admit(request: Request, action: Route['action'], identify: Identify): Promise<Person | null> {
  const person = await identify(request);
  if (!may(person, action)) throw new RequestError({ code: person ? 'not-allowed' : 'not-signed-in' });
  return person;
}

function numberIn(request: Request): number {
  const text = String(request.params['id'] ?? '1');
  if (!/^[1-9]\d{0,14}$/.test(text)) throw new RequestError({ code: 'not-found', what: 'thing' });
  return Number(text);
}

/** `fields` says which there are at the moment of the request. */
export function mountRoutes(app: Express, handlers: Handlers, identify: Identify, fields: () => FieldRegistry): void {
  for (const [name, route] of Object.entries(ROUTES) as [RouteName, Route][]) {
    const handle = handlers[name] as (call: Call<RouteName>) => Promise<unknown>;
    app[route.method.toLowerCase() as 'get' | 'post' | 'put' | 'delete'](
      route.path,
      async (request: Request, response: Response) => {
        const person = await admit(request, route.action, identify);
        // Another site's form cannot send JSON without asking first, and it is never told yes.
        if (route.method !== 'GET' && request.headers['sec-fetch-site'] === 'cross-site')
          throw new RequestError({ code: 'not-allowed' });
        const body = await readBody(name, request.body, fields());
        response.json(await handle({ body, id: numberIn(request), person, request, response }));
      },
    );
  }
}

function asApiError(error: unknown): ApiError {
  if (error instanceof RequestError) return error.error;
  if (error instanceof ValidationError) {
    const issues = error.inner.length > 0 ? error.inner : [error];
    return {
      code: 'invalid',
      issues: issues.slice(0, 20).map((issue) => ({ path: issue.path ?? '', message: issue.message })),
    };
  }
  const { type, status } = error as { type?: string; status?: number };
  if (type === 'entity.parse.failed')
    return { code: 'invalid', issues: [{ path: '', message: 'The request is not JSON.' }] };
  if (type === 'entity.too.large')
    return { code: 'invalid', issues: [{ path: '', message: 'The request is too large.' }] };
  if (status === 404) return { code: 'not-found', what: 'file' };
  return { code: 'internal', reference: randomUUID().slice(0, 8) };
}

/** Turns whatever was thrown into an answer. What is our own fault goes to the log under the reference that the person sees. */
export function answerErrors(log: (line: string) => void) {
  return (thrown: unknown, _request: Request, response: Response, next: NextFunction): void => {
    if (response.headersSent) return next(thrown);
    const error = asApiError(thrown);
    if (error.code === 'internal')
      log(`${error.reference} ${thrown instanceof Error ? (thrown.stack ?? thrown.message) : String(thrown)}`);
    response.status(STATUS_OF[error.code]).json({ error, message: wordApiError(error) });
  };
}
