import { BUILT_IN } from '@larder/core/fields';
import { havingHits, hitsIn } from '@larder/core/markers';
import { combine, parseQuery } from '@larder/core/query';
import { LibraryIndex } from '@larder/core/search';
import { fieldValues, type Asset, type IdsQuery } from '@larder/contract';
import { LibraryServer } from './library';

const BY_NAME = { field: 'name', descending: false } as const;

/** A server that answers searches as the real one does, by the index. */
export function serverWith(assets: readonly Asset[], bin: readonly number[] = []): LibraryServer {
  const server = new LibraryServer(assets);
  const order = [...bin];
  const indexed = () => {
    const index = new LibraryIndex();
    index.upsert(
      [...server.assets.values()].map((each) => ({
        id: each.id,
        values: { ...fieldValues(each), ...(server.flagged.includes(each.id) ? { flag: ['mine'] } : {}) },
      })),
    );
    return index;
  };
  const listed = ({ query = '', lift, sort = BY_NAME, by }: Partial<IdsQuery>) => ({
    tree: parseQuery(query).tree,
    lift: lift === undefined ? undefined : parseQuery(lift).tree,
    ...{ sort, by, order: sort.hand === undefined ? undefined : order },
  });
  const found = ({ offset = 0, limit = 1e6, ...asked }: Partial<IdsQuery>) =>
    indexed().search({ ...listed(asked), offset, limit });
  server.on('search', (body) => {
    const { ids, total, assets: count, groups, lifted = null } = found(body);
    return {
      ...{ total, found: count, offset: body.offset ?? 0, revision: server.revision },
      assets: ids.flatMap((id) => server.assets.get(id) ?? []),
      groups: body.groups ? groups : null,
      lifted,
    };
  });
  server.on('searchStep', ({ from, backwards = false, ...body }) => ({
    place: indexed().step({ ...listed(body), lift: parseQuery(body.lift).tree, from, backwards }),
    revision: server.revision,
  }));
  server.on('searchIds', (body) => ({ ids: [...new Set(found(body).ids)], revision: server.revision }));
  server.on('map', ({ query = '', box = null, columns = 12 }) => {
    const answer = indexed().map({ tree: parseQuery(query).tree, box, columns });
    const town = { name: 'Farport', country: 'Nowhere', metres: 12_345, side: 'north' };
    return { ...answer, clusters: answer.clusters.map((each) => ({ ...each, town })), towns: [], revision: 1 };
  });
  server.on('days', ({ query = '' }) => ({
    ...indexed().days(parseQuery(query).tree, 'shot'),
    revision: server.revision,
  }));
  server.on('hits', ({ query = '', limit = 50, offset = 0, sort = BY_NAME }) => {
    const { tree } = parseQuery(query);
    const having = combine('all', [tree, havingHits(tree, BUILT_IN)]);
    const { ids, assets } = indexed().search({ tree: having, sort, offset, limit });
    const hits = ids.flatMap((id) => {
      const found = server.assets.get(id);
      return found ? [{ asset: found, hits: hitsIn(tree, server.markersOf(id), BUILT_IN), said: [], more: 0 }] : [];
    });
    return { total: assets, offset, assets: hits, revision: server.revision };
  });
  server.on('facets', ({ query = '', fields, limit = 8, spread = false }) => ({
    facets: indexed().facets({ tree: parseQuery(query).tree, fields, limit, spread }),
    revision: server.revision,
  }));
  server.on('bins', () => ({
    bins: [{ id: 4, parentId: null, name: 'Best', path: 'Best', count: order.length, broken: 0, by: null }],
  }));
  server.on('orderBin', ({ assetIds, before }) => {
    const rest = order.filter((id) => !assetIds.includes(id));
    const at = rest.indexOf(before ?? 0);
    order.splice(0, order.length, ...rest);
    order.splice(at < 0 ? order.length : at, 0, ...assetIds);
    return { revision: ++server.revision, group: 'order', changed: 1 };
  });
  return server;
}
