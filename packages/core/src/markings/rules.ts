import type { FieldRegistry } from '../fields';
import { answersQuery, parseQuery, type Query, type Said } from '../query';
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

  /** Null for one that has none. Rules are searches, and mean what they mean in the search line. */
  of(asset: Said): Marking | null {
    const byHand = asset.values.marking;
    const chosen = typeof byHand === 'string' ? this.byName.get(byHand) : undefined;
    if (chosen) return chosen;
    if (this.rules.length === 0) return null;
    const now = Date.now();
    return this.rules.find(({ tree }) => answersQuery(tree, asset, this.fields, now))?.marking ?? null;
  }
}
