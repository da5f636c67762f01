import type { FieldRegistry } from '../fields';
import { parseQuery, type Query } from '../query';
import { LibraryIndex, type SearchDocument } from '../search';
import type { Marking } from './schema';

/** Which marking assets have: the one put on by hand, else the first whose rule they fit. */
export class MarkingRules {
  private readonly byName: ReadonlyMap<string, Marking>;
  private readonly rules: readonly { readonly marking: Marking; readonly tree: Query }[];

  /** `markings` in the order in which their rules are tried. A rule that cannot be read, since its field is gone, fits nothing. */
  constructor(
    markings: readonly Marking[],
    private readonly fields: FieldRegistry,
  ) {
    this.byName = new Map(markings.map((marking) => [marking.name, marking]));
    this.rules = markings.flatMap((marking) => {
      if (marking.rule === '') return [];
      const { tree, issues } = parseQuery(marking.rule, fields);
      return issues.length > 0 ? [] : [{ marking, tree }];
    });
  }

  /** Null for one that has none. Rules are searches, and answered by what answers searches. */
  of(document: SearchDocument): Marking | null {
    const byHand = document.values.marking;
    const chosen = typeof byHand === 'string' ? this.byName.get(byHand) : undefined;
    if (chosen) return chosen;
    if (this.rules.length === 0) return null;
    const index = new LibraryIndex(this.fields);
    index.upsert([document]);
    return this.rules.find(({ tree }) => index.count(tree) > 0)?.marking ?? null;
  }
}
