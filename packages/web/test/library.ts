import { edited as withEdit } from '../src/app/library/state/library.reducer';
import type { Marker } from '@larder/core/markers';
import type { Asset, Undone, Written } from '@larder/contract';
import { FakeServer, Refusal } from './screen';

/** A server with a few assets that can be searched by a part of their name, edited and undone, by one person or by others. */
export class LibraryServer extends FakeServer {
  revision = 1;
  readonly assets = new Map<number, Asset>();
  /** Of each change what the assets were on the other side of it. */
  private readonly before = new Map<string, readonly Asset[]>();
  private readonly done: string[] = [];
  private readonly undoneOnes: string[] = [];
  pulled: readonly number[] = [];
  flagged: readonly number[] = [];
  markers: (Marker & { readonly assetId: number })[] = [];

  constructor(assets: readonly Asset[]) {
    super();
    for (const asset of assets) this.assets.set(asset.id, asset);
    const found = (query = '') =>
      [...this.assets.values()].filter(({ name }) => name.includes(query.replace(/\W/g, '')));
    this.on('search', ({ query, offset = 0, limit = 100 }) => ({
      total: found(query).length,
      found: found(query).length,
      groups: null,
      lifted: null,
      offset,
      revision: this.revision,
      assets: found(query).slice(offset, offset + limit),
    }));
    this.on('searchIds', ({ query, offset = 0, limit = 1e6 }) => ({
      ids: found(query)
        .slice(offset, offset + limit)
        .map(({ id }) => id),
      revision: this.revision,
    }));
    this.on('rows', ({ ids }) => ({
      assets: ids.flatMap((id) => this.assets.get(id) ?? []),
      revision: this.revision,
    }));
    this.on('edit', (edit) => {
      const touched = edit.assetIds.flatMap((id) => this.assets.get(id) ?? []);
      const group = `group-${++this.revision}`;
      this.before.set(group, touched);
      this.done.push(group);
      this.undoneOnes.length = 0;
      for (const asset of touched) this.assets.set(asset.id, withEdit(asset, edit));
      return { revision: this.revision, group, changed: touched.length };
    });
    this.on('undo', ({ group }) => this.take(group ?? this.done.at(-1), this.done, this.undoneOnes));
    this.on('redo', () => this.take(this.undoneOnes.at(-1), this.undoneOnes, this.done));
    this.on('tags', () => ({
      freeTags: true,
      sets: [],
      tags: ['dawn', 'Dusk', 'indawnable'].map((name, index) => ({
        ...{ id: index + 1, name, uses: 1, setId: null },
        ...{ letter: '', description: '', synonyms: [] },
      })),
    }));
    this.on('markers', (_body, id) => ({ markers: this.markersOf(id) }));
    this.on('newMarker', (marker, id) => {
      this.markers.push({ ...marker, id: this.markers.length + 1, by: 'Maren Oakley', assetId: id });
      return { ...this.written(), id: this.markers.length };
    });
    this.on('changeMarker', (marker, id) => {
      this.markers = this.markers.map((each) => (each.id === id ? { ...each, ...marker } : each));
      return this.written();
    });
    this.on('removeMarkers', ({ ids }) => {
      this.markers = this.markers.filter(({ id }) => !ids.includes(id));
      return this.written();
    });
    this.on('subclips', (_body, id) => ({
      assets: [...this.assets.values()].filter(({ parentId }) => parentId === id),
    }));
    this.on('newSubclip', ({ name, in: start, out: end }, id) => {
      const whole = this.assets.get(id);
      const made = this.assets.size + 1;
      if (whole)
        this.assets.set(made, {
          ...{ ...whole, id: made, name, title: name, parentId: id, parentName: whole.name, inPlace: start },
          ...{ durationFrames: end - start, startFrame: (whole.startFrame ?? 0) + start },
        });
      return { ...this.written(), id: made };
    });
    this.on('changeSubclip', ({ in: start, out: end }, id) => {
      const part = this.assets.get(id);
      if (part) {
        const first = (part.startFrame ?? 0) - part.inPlace + start;
        this.assets.set(id, { ...part, inPlace: start, durationFrames: end - start, startFrame: first });
      }
      return this.written();
    });
    this.on('removeSubclips', ({ ids }) => {
      for (const id of ids) this.assets.delete(id);
      return this.written();
    });
    this.on('fields', () => ({ fields: [], plain: {} }));
    this.on('flags', () => ({ ids: this.flagged, revision: this.revision }));
    this.on('setFlags', ({ assetIds, on }) => {
      this.flagged = [...this.flagged.filter((id) => !assetIds.includes(id)), ...(on ? assetIds : [])];
      return this.written();
    });
    this.on('markings', () => ({ markings: [] }));
    this.on('layouts', () => ({ layouts: [] }));
    this.on('pull', () => ({ assetIds: this.pulled }));
    this.on('setPull', ({ assetIds }) => ({ assetIds: (this.pulled = assetIds) }));
    this.on('liveBins', () => ({ bins: [] }));
  }

  markersOf(id: number): Marker[] {
    return this.markers
      .filter(({ assetId }) => assetId === id)
      .map(({ assetId: _assetId, ...marker }) => marker)
      .sort((a, b) => a.start - b.start);
  }

  /** Turns a change round: the assets are as they were on its other side. */
  private take(group: string | undefined, from: string[], to: string[]): Undone | Refusal {
    const touched = this.before.get(group ?? '');
    if (group === undefined || !touched) return new Refusal(422, { code: 'refused', reason: 'There is nothing.' });
    from.splice(from.indexOf(group), 1);
    to.push(group);
    this.before.set(
      group,
      touched.flatMap(({ id }) => this.assets.get(id) ?? []),
    );
    for (const asset of touched) this.assets.set(asset.id, asset);
    return {
      ...{ revision: ++this.revision, group: `taken-${group}`, changed: touched.length },
      ...{ of: group, action: 'edit', fields: ['title'], assets: touched.length, atMs: 0 },
    };
  }

  written(): Written {
    return { revision: ++this.revision, group: `group-${this.revision}`, changed: 1 };
  }

  /** A colleague saves something; the window is not told by this. */
  colleague(id: number, changes: Partial<Asset>): void {
    const asset = this.assets.get(id);
    if (asset) this.assets.set(id, { ...asset, ...changes });
    this.revision += 1;
  }
}
