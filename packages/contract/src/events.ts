import type { Job } from './model';

export const ENTITIES = [
  'asset',
  'flag',
  'storage',
  'live-bin',
  'bin',
  'preset',
  'watch',
  'project',
  'string-out',
  'tag',
  'tag-set',
  'field',
  'marking',
  'custom-word',
] as const;
export type Entity = (typeof ENTITIES)[number];

/** What the server tells every open window, as server-sent events. */
export type ServerEvent =
  | {
      readonly type: 'feed';
      readonly revision: number;
      readonly changed: readonly { readonly entity: Entity; readonly id: number; readonly by: number | null }[];
    }
  | { readonly type: 'jobs'; readonly jobs: readonly Job[] }
  | { readonly type: 'hello'; readonly revision: number };
