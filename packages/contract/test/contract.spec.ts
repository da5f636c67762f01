import fc from 'fast-check';
import type { ObjectSchema, ValidationError } from 'yup';
import { BUILT_IN } from '@larder/core/fields';
import {
  ACTIONS,
  FILE_PATHS,
  MAX_WINDOW,
  readBody,
  ROUTES,
  STATUS_OF,
  wordApiError,
  type ApiError,
  type BodyOf,
  type Route,
  type RouteName,
} from '@larder/contract';

const routes = Object.entries(ROUTES) as [RouteName, Route][];

/** Everything that is wrong with a body, as `path: message`; empty if it is right. */
function wrongWith<Name extends RouteName>(name: Name, body: unknown): string[] {
  try {
    (ROUTES[name] as Route).body?.validateSync(body, {
      abortEarly: false,
      strict: true,
      context: { fields: BUILT_IN },
    });
    return [];
  } catch (error) {
    return (error as ValidationError).inner.length > 0
      ? (error as ValidationError).inner.map((each) => `${each.path ?? ''}: ${each.message}`)
      : [(error as ValidationError).message];
  }
}

const fits = <Name extends RouteName>(name: Name, body: BodyOf<Name>): void =>
  expect(wrongWith(name, body)).toEqual([]);

describe('the table of routes', () => {
  it('has no two ways in that are the same', () => {
    const ways = routes.map(([, { method, path }]) => `${method} ${path}`);
    expect(new Set(ways).size).toBe(ways.length);
  });
  it('every way in says what is done there, lies under /api, and reads a body only where one is sent', () => {
    for (const [, { action, method, path, body }] of routes) {
      expect(ACTIONS).toContain(action);
      expect(path).toMatch(/^\/api\/[a-z-]+(\/:id)?(\/[a-z-]+)*$/);
      if (method === 'GET' || method === 'DELETE') expect(body).toBeNull();
    }
  });
  it('only finding out who one is, and signing in and out, is open to strangers', () =>
    expect(routes.filter(([, { action }]) => action === 'open').map(([name]) => name)).toEqual([
      'session',
      'signIn',
      'signOut',
      'demoPeople',
    ]));
  it('nothing that changes the library is only looking', () =>
    expect(
      routes
        .filter(([, { action, method }]) => action === 'look' && method !== 'GET')
        .map(([name]) => name)
        .sort(),
    ).toEqual([
      'browse',
      'conform',
      'days',
      // One's own, which nobody else sees.
      'dismissHit',
      'facet',
      'facets',
      // Only the order of what waits changes by it.
      'first',
      'forgetSearches',
      'hits',
      'inspect',
      'listen',
      'map',
      // One's own, or shared by who may log: how a screen is arranged.
      'newLayout',
      'previewOperation',
      // A question.
      'related',
      'relinkItems',
      // What one searched for is one’s own.
      'rememberSearch',
      'removeLayout',
      'restoreList',
      'rows',
      // What one is told of, and has seen, is one's own.
      'sawLiveBin',
      'search',
      'searchIds',
      'searchStep',
      // One's own, which nobody else sees.
      'setFlags',
      // Where one stopped, and what one picked, is one's own.
      'setLoggingPlace',
      'setPull',
      // Questions, with all that is asked in their bodies.
      'spoken',
      'spokenPassages',
      'spokenTotals',
      // Only reads.
      'takeHits',
      'takeRestoreList',
      'themePassages',
      'themes',
      // A question; which transcript is wanted stands in its body.
      'transcript',
      'twinList',
      'twins',
      'watchLiveBin',
    ]));
  it('files have addresses of their own', () =>
    expect([FILE_PATHS.rendition(7, 'poster'), FILE_PATHS.original(7), FILE_PATHS.cutList(3, 'edl')]).toEqual([
      '/files/7/poster',
      '/files/7/original',
      '/files/string-outs/3.edl',
    ]));
});

describe('bodies that are right', () => {
  it('are let through', () => {
    fits('signIn', { login: 'maren', password: 'x' });
    fits('search', { query: 'tag:dawn', sort: { field: 'shot', descending: true }, offset: 0, limit: MAX_WINDOW });
    fits('rows', { ids: [1, 2] });
    fits('newLiveBin', { name: 'Dawn', query: 'tag:dawn' });
    fits('newStorage', { name: 'Card', rootPath: '/media/card' });
    fits('pointAt', { assetId: 1, storageId: 2, path: 'a/b.mov' });
    fits('decideRelink', { decision: 'accepted', assetIds: [], rule: 0, state: 'decide', chosen: null });
    fits('decideRelink', { decision: 'open', assetIds: [1], rule: null, state: null, chosen: 2 });
    const lost = { of: 'everything' as const, id: null, folder: '', assetIds: [] };
    fits('restoreList', { lost, plan: null, isCut: false, handlesSeconds: 2, offset: 0, limit: 100 });
    fits('takeRestoreList', { lost, plan: 3, isCut: true, handlesSeconds: 0.5 });
    fits('moveStorage', { rootPath: '/mnt/shelf' });
    fits('restore', { storageId: 1, assetIds: [1, 2] });
    fits('twinList', { offset: 0, limit: 25 });
    fits('keepTwins', { groups: [{ keep: 1, others: [2, 3] }] });
    fits('newProject', { name: 'One', description: null, counting: '29.97df' });
    fits('saveStringOut', { name: 'Cut', version: 1, items: [{ id: 'a', assetId: 1, in: 0, out: 1 }], markers: [] });
    fits('conform', { fileName: 'a.edl', text: 'TITLE: A', counting: '25' });
    fits('readList', {
      fileName: 'a.edl',
      text: 'TITLE: A',
      counting: '25',
      projectId: 1,
      name: ' ',
      expectedOn: null,
    });
  });
  it('of a search may be left out altogether', () => fits('search', {}));
});

describe('bodies that are wrong', () => {
  it.each<[RouteName, unknown, string]>([
    ['signIn', { login: '', password: 'x' }, 'login: Who are you?'],
    ['search', { query: 'x'.repeat(2001) }, 'query: A search has at most 2,000 characters.'],
    ['search', { sort: { field: 'colour' } }, 'sort.field: There is no such field to sort by.'],
    ['search', { limit: MAX_WINDOW + 1 }, 'limit: limit must be less than or equal to 500'],
    [
      'readList',
      { fileName: 'a', text: 'x', projectId: 1, name: 'x'.repeat(121) },
      'name: A name has at most 120 characters.',
    ],
    ['search', { offset: -1 }, 'offset: offset must be greater than or equal to 0'],
    ['rows', { ids: [0] }, 'ids[0]: ids[0] must be a positive number'],
    ['rows', { ids: [1.5] }, 'ids[0]: ids[0] must be an integer'],
    [
      'newLiveBin',
      { name: 'All', query: '' },
      'query: A live bin needs a search: an empty one would hold the whole library.',
    ],
    ['newLiveBin', { name: 'Two\nlines', query: 'x' }, 'name: A name is one line.'],
    ['newLiveBin', { name: 'n'.repeat(121), query: 'x' }, 'name: A name has at most 120 characters.'],
    [
      'newStorage',
      { name: 'Card', rootPath: 'media' },
      'rootPath: The folder is an absolute path on the server, such as /media/shelf.',
    ],
    ['findMissing', { places: [] }, 'places: Choose a storage to look in.'],
    ['findMissing', { places: [{ folder: '' }] }, 'places[0].storageId: Choose a storage to look in.'],
    [
      'pointAt',
      { assetId: 1, storageId: 2, path: '../x' },
      'path: The folder lies within the storage; write its path from the storage on.',
    ],
    ['decideRelink', { decision: 'accepted' }, ': Say what it is decided of.'],
    [
      'decideRelink',
      { decision: 'accepted', assetIds: [1, 2], chosen: 0 },
      ': One candidate is chosen for one original.',
    ],
    ['restoreList', { handlesSeconds: 61 }, 'handlesSeconds: handlesSeconds must be less than or equal to 60'],
    [
      'moveStorage',
      { rootPath: 'shelf' },
      'rootPath: The folder is an absolute path on the server, such as /media/shelf.',
    ],
    ['restore', { storageId: 1, assetIds: [] }, 'assetIds: Choose what is to be restored.'],
    ['twinList', { limit: 1000 }, 'limit: limit must be less than or equal to 100'],
    ['partTwins', { assetIds: [1] }, 'assetIds: Choose at least two.'],
    ['keepTwins', { groups: [] }, 'groups: Choose what is merged.'],
    ['keepTwins', { groups: [{ others: [1] }] }, 'groups[0].keep: Choose which one is kept.'],
    ['keepTwins', { groups: [null] }, 'groups[0]: groups[0] cannot be null'],
    ['keepTwins', { groups: [{ keep: 1, others: [] }] }, 'groups[0].others: Choose what is merged into it.'],
    [
      'keepTwins',
      {
        groups: Array.from({ length: 6 }, (_unused, at) => ({
          keep: at + 1,
          others: Array.from({ length: 100 }, () => 9),
        })),
      },
      'groups: At most 500 assets are merged at once.',
    ],
    ['restore', { assetIds: [1] }, 'storageId: Choose a storage to restore to.'],
    ['newProject', { name: 'One', counting: '26' }, 'counting: That is no frame rate known here.'],
    [
      'saveStringOut',
      { name: 'C', version: 0, items: [], markers: [] },
      'version: version must be greater than or equal to 1',
    ],
    [
      'saveStringOut',
      { name: 'C', version: 1, items: [{ id: 'a', assetId: 1, in: 0, out: 0 }] },
      'items[0].out: items[0].out must be greater than 0',
    ],
  ])('%s (case %#) is told what and where', (name, body, words) => expect(wrongWith(name, body)).toContain(words));

  it('whatever is sent to any of them is taken or refused in words', async () => {
    for (const [name, { body }] of routes) {
      const keys = Object.keys((body as ObjectSchema<object> | null)?.fields ?? {});
      const anyBody = fc.record(Object.fromEntries(keys.map((key) => [key, fc.jsonValue()])), { requiredKeys: [] });
      await fc.assert(
        fc.asyncProperty(fc.oneof(anyBody, fc.jsonValue()), async (sent) => {
          await readBody(name, sent, BUILT_IN).catch((error: unknown) =>
            expect([name, (error as Error).name]).toEqual([name, 'ValidationError']),
          );
        }),
        { numRuns: 60 },
      );
    }
    await expect(readBody('search', { atLeast: { toString: false } }, BUILT_IN)).rejects.toThrow('cannot be read');
  });
  it('a body is read with what it leaves out filled in, and all that is wrong with it told at once', async () => {
    expect(await readBody('newLiveBin', { name: '  Dawn ', query: 'tag:dawn' }, BUILT_IN)).toEqual({
      ...{ name: 'Dawn', query: 'tag:dawn' },
      ...{ parentId: null, projectId: null, shared: true },
    });
    expect(await readBody('search', null, BUILT_IN)).toMatchObject({ query: '', offset: 0, limit: 100 });
    expect(await readBody('status', { anything: 1 }, BUILT_IN)).toBeNull();
    await expect(readBody('newStorage', {}, BUILT_IN)).rejects.toMatchObject({
      errors: expect.arrayContaining(['A name is needed.', 'The folder is needed.']) as unknown,
    });
  });
  it('what nobody asked for is not taken along', () => {
    for (const [name] of routes.filter(([, { body }]) => body !== null))
      expect(wrongWith(name, { role: 'manager' }).join()).toMatch(/unspecified|unknown|role/);
  });
  it.each([null, [], 'text', 7])('%j is no body of any of them', (body) => {
    for (const [name] of routes.filter(([, route]) => route.body !== null))
      expect(wrongWith(name, body)).not.toEqual([]);
  });
});

describe('what goes wrong, in words', () => {
  const errors: readonly ApiError[] = [
    { code: 'not-signed-in' },
    { code: 'wrong-password' },
    { code: 'too-many-tries', seconds: 30 },
    { code: 'not-allowed' },
    { code: 'not-found', what: 'string-out' },
    { code: 'invalid', issues: [{ path: 'name', message: 'A name is needed.' }] },
    { code: 'query', issues: [] },
    { code: 'conflict', conflicts: [{ assetId: 1, name: 'a', field: 'title', by: null, theirs: null }] },
    { code: 'newer-version', what: 'string-out', by: null },
    { code: 'refused', reason: 'There is a bin of that name.' },
    { code: 'internal', reference: 'r-1' },
  ];
  it('has an HTTP status and a whole sentence for each', () => {
    expect(new Set(errors.map(({ code }) => code))).toEqual(new Set(Object.keys(STATUS_OF)));
    for (const error of errors) {
      expect(wordApiError(error)).toMatch(/^[A-Z].*\.$/s);
      expect(STATUS_OF[error.code]).toBeGreaterThanOrEqual(400);
    }
  });
  it('names how many places two people changed', () => {
    const place = { assetId: 1, name: 'a', field: 'title', by: null, theirs: null } as const;
    expect(wordApiError({ code: 'conflict', conflicts: [place, place] })).toContain('In 2 places');
  });
});
