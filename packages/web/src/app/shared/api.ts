import { HttpClient, HttpErrorResponse } from '@angular/common/http';
import { inject, Injectable, type Resource } from '@angular/core';
import { catchError, throwError, type Observable } from 'rxjs';
import {
  ROUTES,
  wordApiError,
  type AnswerOf,
  type ApiError,
  type BodyOf,
  type Route,
  type RouteName,
} from '@larder/contract';

/** What went wrong with a request, and the words for it. */
export interface Failure {
  readonly error: ApiError | { readonly code: 'unreachable' };
  readonly message: string;
}

const UNREACHABLE: Failure = {
  error: { code: 'unreachable' },
  message: 'The server does not answer. What you see may be out of date; try again in a moment.',
};

export function failureOf(thrown: unknown): Failure {
  const body = thrown instanceof HttpErrorResponse ? (thrown.error as { error?: ApiError } | null) : null;
  const error = body?.error;
  return error?.code ? { error, message: wordApiError(error) } : UNREACHABLE;
}

/** What went wrong with what a resource asked for, in words; null for nothing. */
export function troubleOf(asked: Resource<unknown>): string | null {
  const error = asked.error();
  // A resource wraps what is no Error of its own.
  return error ? ((error.cause as Failure | undefined)?.message ?? 'It cannot be shown just now.') : null;
}

/** Asks the server, by the routes of the contract. Errors come as `Failure`. */
@Injectable({ providedIn: 'root' })
export class Api {
  private readonly http = inject(HttpClient);

  call<Name extends RouteName>(name: Name, body: BodyOf<Name>, id?: number): Observable<AnswerOf<Name>> {
    const route: Route = ROUTES[name];
    const path = id === undefined ? route.path : route.path.replace(':id', String(id));
    return this.http
      .request<AnswerOf<Name>>(route.method, path, body === null ? {} : { body })
      .pipe(catchError((thrown: unknown) => throwError(() => failureOf(thrown))));
  }

  /** Sends a file as it is. */
  send<Answer>(path: string, file: Blob): Observable<Answer> {
    return this.http
      .post<Answer>(path, file, { headers: { 'content-type': file.type || 'application/octet-stream' } })
      .pipe(catchError((thrown: unknown) => throwError(() => failureOf(thrown))));
  }
}
