import { BUILT_IN, fold, type FieldRegistry } from '../fields';
import { QUERY_VERSION, type FieldTest, type Query } from './tree';

/** A search as it is kept: the tree with the version of its shape. */
export interface SavedQuery {
  readonly version: typeof QUERY_VERSION;
  readonly tree: Query;
}

export const saveQuery = (tree: Query): SavedQuery => ({ version: QUERY_VERSION, tree });

/** The first version knew no forms of words; what it asked for is asked as it was. */
const READ: readonly unknown[] = [1, QUERY_VERSION];

/** Reads a kept search from parsed JSON. Throws with the reason on another version or a broken shape: kept data is ours, so that is a bug. */
export function loadQuery(value: unknown, fields: FieldRegistry = BUILT_IN): Query {
  const saved = value as Partial<SavedQuery> | null;
  if (!saved || !READ.includes(saved.version))
    throw new Error(
      `this search was saved in version ${String(saved?.version)}, and version ${QUERY_VERSION} is the one read here`,
    );
  return check(saved.tree, fields);
}

function check(node: unknown, fields: FieldRegistry): Query {
  const query = node as Query;
  switch (query?.kind) {
    case 'all':
    case 'any':
      return { kind: query.kind, of: query.of.map((part) => check(part, fields)) };
    case 'not':
      return { kind: 'not', of: check(query.of, fields) };
    case 'words':
      return { ...query, test: folded(query.test) };
    case 'field':
      if (!fields.byId(query.field)) throw new Error(`this search asks for a field that is gone: ${query.field}`);
      return { ...query, test: checkTest(query.test) };
    default:
      throw new Error('this search holds a node of no known kind');
  }
}

const TESTS: readonly FieldTest['op'][] = [
  'forms',
  'text',
  'part',
  'whole',
  'span',
  'presence',
  'near',
  'around',
  'calendar',
  'age',
  'heard',
];

function checkTest(test: FieldTest): FieldTest {
  if (!TESTS.includes(test?.op)) throw new Error('this search holds a test of no known kind');
  return folded(test);
}

/** Words are kept folded; what folds to something else by now is looked for as it does today. */
const folded = <Test extends FieldTest>(test: Test): Test =>
  'text' in test ? { ...test, text: fold(test.text) } : test;
