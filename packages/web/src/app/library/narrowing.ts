import type { FieldRegistry } from '@larder/core/fields';
import { combine, parseQuery, printQuery, type Query } from '@larder/core/query';

/** A search that asks for what another search asks for, too. */
export const within = (query: string, inner: string, registry: FieldRegistry): string =>
  inner.trim() === '' ? query : narrowed(query, parseQuery(inner, registry).tree, registry);

/** A search that asks for a part beside what it asks for already; empty where there is no part. */
export const narrowed = (query: string, part: Query | null, registry: FieldRegistry): string =>
  part ? printQuery(combine('all', [parseQuery(query, registry).tree, part]), registry) : '';
