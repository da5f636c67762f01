import { fold, type FieldRegistry } from '../../fields';
import type { ColumnUse, MatchKey } from './types';

/** Headings by which the columns that name an asset are known, folded. The first of each is what is written. */
const KEY_HEADINGS: Readonly<Record<MatchKey, readonly string[]>> = {
  asset: ['asset number', 'asset', 'asset id', 'id'],
  path: ['path', 'file path', 'source file'],
  checksum: ['checksum', 'xxh64', 'hash'],
  name: ['name', 'file name', 'filename', 'file', 'clip name', 'clip'],
  start: ['start', 'start tc', 'start timecode', 'tc in', 'tc start'],
  reel: ['reel', 'tape', 'roll', 'camera roll'],
};
export const TAGS_HEADING = 'Tags';
const TAGS_HEADINGS: readonly string[] = ['tags', 'tag', 'keywords', 'subject'];

/** The heading under which a key is written. */
export const keyHeading = (key: MatchKey): string => {
  const [heading = key] = KEY_HEADINGS[key];
  return heading.charAt(0).toUpperCase() + heading.slice(1);
};

const plain = (heading: string): string =>
  fold(heading)
    .replace(/[_\s]+/g, ' ')
    .trim();

/** Every name under which a column of a field is known: its label, its names in searches, and what open standards call it. */
function fieldsByHeading(fields: FieldRegistry): ReadonlyMap<string, string> {
  const known = new Map<string, string>();
  const learn = (heading: string | undefined, id: string): void => {
    const key = heading && plain(heading);
    if (key && !known.has(key)) known.set(key, id);
  };
  const settable = fields.settable.filter(({ retired }) => !retired);
  for (const { id, label } of settable) learn(label, id);
  for (const { id, aliases = [] } of settable) [id, ...aliases].forEach((name) => learn(name, id));
  for (const { id, standard = {} } of settable) Object.values(standard).forEach((name) => learn(name, id));
  return known;
}

/** The best key that some columns have, with those that go with it: a reel alone names no clip. */
function keysOf(headings: readonly string[]): ReadonlyMap<number, MatchKey> {
  const at = (key: MatchKey): number =>
    KEY_HEADINGS[key].map((name) => headings.indexOf(name)).find((index) => index >= 0) ?? -1;
  for (const key of ['asset', 'path', 'checksum'] as const) if (at(key) >= 0) return new Map([[at(key), key]]);
  const together = (['name', 'start', 'reel'] as const).filter((key) => at(key) >= 0);
  const enough = together.includes('name') || (together.includes('start') && together.includes('reel'));
  return new Map(enough ? together.map((key) => [at(key), key]) : []);
}

/** What each column of a table most likely means. Only a guess for a person to look at: every part of it can be chosen otherwise. */
export function proposeUses(heading: readonly string[], fields: FieldRegistry): readonly ColumnUse[] {
  const headings = heading.map(plain);
  const keys = keysOf(headings);
  const known = fieldsByHeading(fields);
  const taken = new Set<string>();
  return headings.map((name, column): ColumnUse => {
    const key = keys.get(column);
    if (key) return { use: 'match', key };
    if (TAGS_HEADINGS.includes(name)) return taken.has('tags') ? { use: 'none' } : (taken.add('tags'), { use: 'tags' });
    const field = known.get(name);
    if (!field || taken.has(field)) return { use: 'none' };
    taken.add(field);
    return { use: 'field', field };
  });
}

export type UseIssue =
  | { readonly code: 'nothing-matches' }
  | { readonly code: 'reel-alone' }
  | { readonly code: 'twice'; readonly what: string }
  | { readonly code: 'no-such-field'; readonly what: string }
  | { readonly code: 'nothing-said' };

/** Why a table cannot be read by these uses; null if it can. */
export function useIssue(uses: readonly ColumnUse[], fields: FieldRegistry): UseIssue | null {
  const keys = uses.flatMap((each) => (each.use === 'match' ? [each.key] : []));
  if (keys.length === 0) return { code: 'nothing-matches' };
  if (keys.every((key) => key === 'reel')) return { code: 'reel-alone' };
  const targets = uses.flatMap((each) =>
    each.use === 'match' ? [keyHeading(each.key)] : each.use === 'tags' ? [TAGS_HEADING] : [],
  );
  const ids = uses.flatMap((each) => (each.use === 'field' ? [each.field] : []));
  const unknown = ids.find((id) => !fields.settable.some((field) => field.id === id));
  if (unknown !== undefined) return { code: 'no-such-field', what: unknown };
  const twice = [...targets, ...ids.map((id) => fields.labelOf(id))].find(
    (what, index, all) => all.indexOf(what) !== index,
  );
  if (twice !== undefined) return { code: 'twice', what: twice };
  return ids.length === 0 && !uses.some(({ use }) => use === 'tags') ? { code: 'nothing-said' } : null;
}

export function wordUseIssue(issue: UseIssue): string {
  switch (issue.code) {
    case 'nothing-matches':
      return 'Say by which column an asset is known: its number, path, checksum, name, or start timecode.';
    case 'reel-alone':
      return 'A reel alone names no clip: add the column with the name or the start timecode.';
    case 'twice':
      return `Two columns are taken as ${issue.what}.`;
    case 'no-such-field':
      return `There is no field ${issue.what} that can be filled in.`;
    case 'nothing-said':
      return 'No column is taken as a field or as tags, so nothing would change.';
    default:
      return issue satisfies never;
  }
}
