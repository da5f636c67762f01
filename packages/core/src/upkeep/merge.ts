import { keptValue, sameValue, type FieldChanges, type SettableFieldId, type SetValue } from '../fields';

/** An asset that is merged into another. */
export interface Merged {
  /** As it is called in the notes. */
  readonly name: string;
  readonly values: FieldChanges;
}

/**
 * What an asset is to say once another was merged into it, as far as it does not say so already. Where it says nothing the other’s word
 * is taken, lists are joined, and what the two say differently goes into the notes, so that nothing that anybody wrote is lost.
 *
 * @param word what a field says, in words
 */
export function mergedValues(
  own: FieldChanges,
  { name, values }: Merged,
  word: (field: SettableFieldId, value: SetValue) => string,
): FieldChanges {
  const set: FieldChanges = {};
  const differing: string[] = [];
  for (const field of Object.keys(values) as SettableFieldId[]) {
    const [mine, theirs] = [keptValue(own[field]), keptValue(values[field])];
    if (field === 'notes' || theirs === null || sameValue(mine, theirs)) continue;
    if (mine === null) set[field] = theirs;
    else if (typeof mine === 'object' && typeof theirs === 'object') set[field] = [...new Set([...mine, ...theirs])];
    else differing.push(word(field, theirs));
  }
  const notes = joined([
    own.notes,
    values.notes,
    differing.length > 0 ? `${name} said: ${differing.join('; ')}` : null,
  ]);
  return sameValue(own.notes, notes) ? set : { ...set, notes };
}

/** Texts below each other, each but what stands in one before it already. */
const joined = (texts: readonly (SetValue | undefined)[]): string | null =>
  texts.reduce<string | null>((all, text) => {
    if (typeof text !== 'string' || text === '' || all?.includes(text)) return all;
    return all === null ? text : `${all}\n${text}`;
  }, null);
