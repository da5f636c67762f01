import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { BUILT_IN, FieldRegistry, type ShopField } from '@larder/core/fields';
import { exampleOf, parseQuery, printQuery, SEARCH_FORMS } from '@larder/core/query';

const description = readFileSync(join(__dirname, '../../../docs/formats/search-language.md'), 'utf8');

describe('what is said of the search language', () => {
  it.each(SEARCH_FORMS.flatMap(({ write }) => write))('%s can be read, and written again', (text) => {
    const { tree, issues } = parseQuery(text);
    expect(issues).toEqual([]);
    expect(parseQuery(printQuery(tree))).toEqual({ tree, issues: [] });
  });

  it('is the same in its description', () => {
    const rows = description
      .split('\n')
      .filter((line) => line.startsWith('| `'))
      .map((line) => line.replace(/\s*\|\s*/g, '|'));
    expect(rows).toEqual(
      SEARCH_FORMS.map(
        ({ write, finds }) => `|${write.map((each) => `\`${each.replaceAll('|', '\\|')}\``).join(', ')}|${finds}|`,
      ),
    );
  });

  it('has an example of every field that can be run', () => {
    const own: ShopField = {
      ...{ key: 'depth', label: 'Depth', group: 'Water', help: '', type: 'number', choices: [] },
      ...{ plain: false, range: null, unit: 'm', standard: '', retired: false },
    };
    const registry = new FieldRegistry([own]);
    for (const field of registry.all) {
      const example = exampleOf(field, registry.nameOf(field.id));
      expect([example, parseQuery(example, registry).issues]).toEqual([example, []]);
    }
    expect(exampleOf(registry.all.at(-1) ?? registry.all[0]!, 'depth')).toBe('depth>2.5');
    expect(BUILT_IN.all.length).toBeLessThan(registry.all.length);
  });
});
