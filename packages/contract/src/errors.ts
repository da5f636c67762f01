import type { SettableFieldId, SetValue } from '@larder/core/fields';
import type { QueryIssue } from '@larder/core/query';

/** What can go wrong with a request, as data. The table below words it. */
export type ApiError =
  | { readonly code: 'not-signed-in' }
  | { readonly code: 'wrong-password' }
  | { readonly code: 'too-many-tries'; readonly seconds: number }
  | { readonly code: 'not-allowed' }
  | { readonly code: 'not-found'; readonly what: string }
  | { readonly code: 'invalid'; readonly issues: readonly { readonly path: string; readonly message: string }[] }
  | { readonly code: 'query'; readonly issues: readonly QueryIssue[] }
  | { readonly code: 'conflict'; readonly conflicts: readonly FieldConflict[] }
  | { readonly code: 'newer-version'; readonly what: string; readonly by: string | null }
  | { readonly code: 'refused'; readonly reason: string }
  | { readonly code: 'internal'; readonly reference: string };

/** Somebody else changed the same field of the same asset since this person last looked. */
export interface FieldConflict {
  readonly assetId: number;
  readonly name: string;
  readonly field: SettableFieldId;
  readonly by: string | null;
  readonly theirs: SetValue;
}

export const STATUS_OF: Readonly<Record<ApiError['code'], number>> = {
  'not-signed-in': 401,
  'wrong-password': 401,
  'too-many-tries': 429,
  'not-allowed': 403,
  'not-found': 404,
  invalid: 422,
  query: 422,
  conflict: 409,
  'newer-version': 409,
  refused: 422,
  internal: 500,
};

export function wordApiError(error: ApiError): string {
  switch (error.code) {
    case 'not-signed-in':
      return 'You are not signed in any more. Sign in and try again.';
    case 'wrong-password':
      return 'Name and password do not go together.';
    case 'too-many-tries':
      return `Too many tries. Wait ${error.seconds} seconds.`;
    case 'not-allowed':
      return 'Your role does not allow this. Ask a library manager.';
    case 'not-found':
      return `There is no such ${error.what} any more.`;
    case 'invalid':
      return error.issues.map((issue) => issue.message).join(' ');
    case 'query':
      return 'The search cannot be read.';
    case 'conflict':
      return `${error.conflicts.length === 1 ? 'Somebody else has' : `In ${error.conflicts.length} places somebody else has`} changed the same field since you last looked. Nothing was written.`;
    case 'newer-version':
      return `${error.by ?? 'Somebody else'} has saved this ${error.what} since you opened it. Nothing was written.`;
    case 'refused':
      return error.reason;
    case 'internal':
      return `Something went wrong on the server (reference ${error.reference}). Nothing was written; try again.`;
    default:
      return error satisfies never;
  }
}
