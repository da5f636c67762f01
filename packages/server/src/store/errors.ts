import { wordApiError, type ApiError } from '@larder/contract';

/** A request that cannot be carried out, as the data that the answer carries. */
export class RequestError extends Error {
  constructor(readonly error: ApiError) {
    super(wordApiError(error));
  }
}

export const notFound = (what: string): RequestError => new RequestError({ code: 'not-found', what });
export const refused = (reason: string): RequestError => new RequestError({ code: 'refused', reason });
