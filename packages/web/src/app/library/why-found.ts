import type { FieldId, FieldRegistry } from '@larder/core/fields';
import { asksForWords, excerpt, matchesIn, parseQuery, type Piece } from '@larder/core/query';
import { fieldValues, type Asset } from '@larder/contract';

/** Why a search found it: where its words are, and all of that at length. */
export interface WhyFound {
  readonly label: string;
  readonly pieces: readonly Piece[];
  readonly all: string;
}

/** What is seen of each clip anyway, and the bin that is looked into. */
const SEEN_ANYWAY: readonly FieldId[] = ['name', 'title', 'tag', 'kind', 'bin', 'state', 'storage'];

/**
 * Says of an asset why a search found it; null if the search asks for no words that would tell more than is seen anyway.
 * @param shown fields that are seen of each asset besides
 */
export function whyFound(
  query: string,
  registry: FieldRegistry,
  shown: readonly FieldId[],
): ((asset: Asset) => WhyFound | null) | null {
  const { tree } = parseQuery(query, registry);
  const seen = new Set<FieldId>([...SEEN_ANYWAY, ...shown]);
  // What was chosen from a list is the same for all of them.
  const isOfList = (id: FieldId): boolean => registry.byId(id)?.choices !== undefined;
  if (!asksForWords(tree, (id) => id === null || !(seen.has(id) || isOfList(id)))) return null;
  return (asset) => {
    const matches = matchesIn(tree, fieldValues(asset), registry).filter(({ field }) => !isOfList(field));
    // What is not seen anyway says more.
    const told = matches.find(({ field }) => !seen.has(field)) ?? matches[0];
    return told
      ? {
          ...{ label: registry.labelOf(told.field), pieces: excerpt(told) },
          all: matches.map(({ field, text }) => `${registry.labelOf(field)}: ${text}`).join('\n'),
        }
      : null;
  };
}
