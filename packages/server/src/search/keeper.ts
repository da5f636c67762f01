import type { Sequelize } from 'sequelize';
import { HeardAnswers, heardIn, saidText, SpokenIndex, type Spoken, type SpokenDocument } from '@larder/core/dialogue';
import { spokenWords } from '@larder/core/fields';
import type { Query } from '@larder/core/query';
import type { LibraryIndex, SearchDocument } from '@larder/core/search';
import type { Asset, Entity } from '@larder/contract';
import {
  assetsAfter,
  assetsById,
  assetsOfStorage,
  assetsTagged,
  DOCUMENTS_VERSION,
  partsOf,
  searchDocument,
} from '../store/assets';
import { AlikeAssets, SAME_ENDS } from '../store/alike';
import { watchedBins, type WatchedBin } from '../store/arrivals';
import { customWords } from '../store/custom-words';
import { feedAfter, headRevision, markOf } from '../store/change-feed';
import { flagTokens } from '../store/flags';
import { otherWordsForTags } from '../store/tags';
import { spokenOn } from '../store/transcripts';
import { loggedBy, projectsCutFrom } from '../store/usage';
import { FIELD_ENTITIES, readFields } from '../store/shop-fields';
import type { Pronunciations } from '../media/pronunciations';
import { Arrivals } from './arrivals';
import { documentRules, type Kept } from './snapshot';

const BATCH = 2000;
const FEED_BATCH = 5000;
const ALL = 1_000_000_000;
/** What of the feed makes watched searches other than they were. */
const WATCH_ENTITIES: readonly Entity[] = ['live-bin', ...FIELD_ENTITIES];
const isSaid = (field: 'use' | 'twin', text: string): Query => ({
  kind: 'field',
  field,
  test: { op: 'text', text, prefix: false },
});
const [USED, TWIN] = [isSaid('use', 'used'), isSaid('twin', 'twin')];

/** What the index and what is said know of some assets. */
interface Documents {
  readonly documents: SearchDocument[];
  readonly spoken: (SpokenDocument & { readonly mark: string })[];
}

/** Builds the index from the database and keeps it current from the change feed. */
export class IndexKeeper {
  revision = 0;
  /** Assets in string-outs, with the projects of these. */
  private cut: ReadonlyMap<number, readonly string[]> = new Map();
  /** Whether the index was told of `cut`; what was kept of it may be of before. */
  private isCutTold = true;
  /** What the library has a second time. */
  private twins = AlikeAssets.none(SAME_ENDS);
  /** As with `isCutTold`. */
  private areTwinsTold = true;
  /** Live bins that somebody wants to be told of. */
  private watched: readonly WatchedBin[] = [];
  /** What came in and is not noted yet: the database may have gone in the middle, and the index has taken it in by then. */
  private readonly untold: Arrivals[] = [];
  private otherWords: ReadonlyMap<string, readonly string[]> = new Map();
  /** What is said in the library, beside what is known of it. */
  spoken: SpokenIndex;
  /** What it has of each asset; unknown of what was kept, which is heard again when it changes. */
  private readonly heard = new Map<number, string>();
  private readonly answers = new HeardAnswers(() => this.spoken);

  constructor(
    private readonly db: Sequelize,
    readonly index: LibraryIndex,
    private readonly pronunciations: Pronunciations,
  ) {
    this.spoken = new SpokenIndex(pronunciations);
    index.hears = (test) => this.answers.ids(test);
  }

  /** Reads the whole library. What changes meanwhile is caught up from the revision noted before. */
  async build(): Promise<void> {
    const revision = await headRevision(this.db);
    await this.readFields();
    await this.readCustomWords();
    this.otherWords = await otherWordsForTags(this.db);
    this.cut = await projectsCutFrom(this.db);
    this.isCutTold = true;
    this.twins = await AlikeAssets.read(this.db, SAME_ENDS);
    this.areTwinsTold = true;
    await this.readWatched();
    const filling = this.index.fill();
    this.spoken = new SpokenIndex(this.pronunciations);
    this.heard.clear();
    for (let last = 0; ;) {
      const assets = await assetsAfter(this.db, last, BATCH);
      if (assets.length === 0) break;
      const { documents, spoken } = await this.documents(assets);
      filling.add(documents);
      this.hear([], spoken);
      last = assets.at(-1)?.id ?? last;
    }
    filling.done();
    this.revision = revision;
    while (await this.catchUp());
  }

  /** Goes on from what was kept, if it is of this library; false if it is not, and must be built. */
  async resume({ parts, spoken, state: { revision, mark, documents } }: Kept): Promise<boolean> {
    if (documents !== documentRules(DOCUMENTS_VERSION) || mark !== (await markOf(this.db, revision))) return false;
    await this.readFields();
    await this.readCustomWords();
    this.otherWords = await otherWordsForTags(this.db);
    this.cut = await projectsCutFrom(this.db);
    this.isCutTold = false;
    this.twins = await AlikeAssets.read(this.db, SAME_ENDS);
    this.areTwinsTold = false;
    await this.readWatched();
    this.index.restore(parts);
    this.spoken = SpokenIndex.restored(spoken, this.pronunciations);
    this.revision = revision;
    while (await this.catchUp());
    return true;
  }

  /** All there is, to be kept, and how it is. */
  async keep(): Promise<Kept> {
    const { revision } = this;
    const [parts, spoken] = [this.index.keep(), this.spoken.keep()];
    const state = { revision, mark: await markOf(this.db, revision), documents: documentRules(DOCUMENTS_VERSION) };
    return { parts, spoken, state };
  }

  /** Takes in the next stretch of the feed; false if there was nothing left of it. Where it fails, all of that stretch is next again. */
  async catchUp(): Promise<boolean> {
    try {
      return await this.takeIn();
    } catch (error) {
      // What hangs on other assets is known by now, but perhaps not told.
      this.isCutTold = false;
      this.areTwinsTold = false;
      throw error;
    }
  }

  private async takeIn(): Promise<boolean> {
    const ahead = await feedAfter(this.db, this.revision, FEED_BATCH);
    if (ahead.length === 0) return false;
    // Nobody is told of what came in before they wanted to be: from where that changes on, it is the next stretch.
    const until = ahead.findIndex((row) => WATCH_ENTITIES.includes(row.entity));
    const rows = until < 0 ? ahead : ahead.slice(0, until + 1);
    if (rows.some((row) => FIELD_ENTITIES.includes(row.entity))) await this.readFields();
    if (rows.some((row) => row.entity === 'custom-word')) {
      await this.readCustomWords();
      // Other assets may sound as is asked now, though nothing of them changed.
      this.answers.forget();
      await this.readFields();
    }
    if (rows.some((row) => row.entity === 'tag')) this.otherWords = await otherWordsForTags(this.db);
    const cut = rows.some((row) => row.entity === 'string-out' || row.entity === 'project')
      ? await this.useChanged()
      : [];
    const those = (entity: Entity) => rows.filter((row) => row.entity === entity).map((row) => row.entityId);
    const changed = [...new Set(those('asset'))];
    const ids = [...new Set([...changed, ...those('flag'), ...cut, ...(await this.twinsChanged(changed))])];
    const arrivals = new Arrivals(this.watched, rows);
    this.untold.push(arrivals);
    for (let start = 0; start < ids.length; start += BATCH)
      await this.reload(ids.slice(start, start + BATCH), arrivals);
    for (const tagId of new Set(those('tag'))) await this.reloadTagged(tagId, arrivals);
    for (const storageId of new Set(those('storage'))) await this.reloadStorage(storageId, arrivals);
    while (this.untold[0]) {
      await this.untold[0].note(this.db);
      this.untold.shift();
    }
    if (until >= 0) await this.readWatched();
    this.revision = rows.at(-1)?.revision ?? this.revision;
    return true;
  }

  private async readFields(): Promise<void> {
    this.index.setFields(await readFields(this.db));
  }

  private async readCustomWords(): Promise<void> {
    this.pronunciations.setCustom(await customWords(this.db));
  }

  private async documents(assets: readonly Asset[]): Promise<Documents> {
    const ids = assets.map(({ id }) => id);
    const [flags, people, spoken] = await Promise.all([
      flagTokens(this.db, ids),
      loggedBy(this.db, ids),
      spokenOn(this.db, ids),
    ]);
    await this.learn([...spoken.values()]);
    return {
      documents: assets.map((asset) => {
        const also = asset.tags.flatMap((name) => this.otherWords.get(name) ?? []);
        const [flag, by] = [flags.get(asset.id), people.get(asset.id)];
        const project = this.cut.get(asset.id);
        const use = project ? 'used' : 'unused';
        const twin = this.twins.has(asset.id) ? { twin: 'twin' } : {};
        const said = spoken.get(asset.id);
        const others = {
          ...{ use, ...twin },
          ...(project ? { project } : {}),
          ...(flag ? { flag } : {}),
          ...(by ? { by } : {}),
          ...(said && said.words.length > 0 ? { said: saidText(said.words) } : {}),
        };
        return { ...searchDocument(asset, others), ...(also.length > 0 ? { also: { tag: also } } : {}) };
      }),
      spoken: assets.flatMap(({ id, parentId }) => {
        const said = spoken.get(id);
        return said ? { id, wholeId: parentId ?? 0, spoken: said, mark: said.mark } : [];
      }),
    };
  }

  /** Most of what changes in an asset is not what is said in it. */
  private hear(silent: readonly number[], spoken: Documents['spoken']): void {
    const changed = spoken.filter(({ id, mark }) => this.heard.get(id) !== mark);
    for (const id of silent) this.heard.delete(id);
    for (const { id, mark } of changed) this.heard.set(id, mark);
    this.spoken.remove(silent);
    this.spoken.upsert(changed);
  }

  /** How words are said that no dictionary has is asked for before they are taken in. */
  private async learn(spoken: readonly Spoken[]): Promise<void> {
    const words = new Set<string>();
    for (const { words: said } of spoken)
      for (const { text } of said) for (const word of spokenWords(text)) words.add(word);
    await this.pronunciations.learn(words);
  }

  /** As `learn`, of what searches look for as it sounds. */
  async learnAsked(trees: readonly Query[]): Promise<void> {
    await this.pronunciations.learn(heardIn(trees));
  }

  /** Assets that string-outs make use of now and did not, or of other projects than before. */
  private async useChanged(): Promise<number[]> {
    const before = this.cut;
    this.cut = await projectsCutFrom(this.db);
    const told = this.isCutTold ? [] : this.saying(USED);
    const all = new Set([...before.keys(), ...this.cut.keys(), ...told]);
    const isSame = (id: number) => this.isCutTold && before.get(id)?.join('\n') === this.cut.get(id)?.join('\n');
    const changed = [...all].filter((id) => !isSame(id));
    this.isCutTold = true;
    return changed;
  }

  /** Assets that are twins now and were not, or the other way round, beside those that changed. */
  private async twinsChanged(ids: readonly number[]): Promise<readonly number[]> {
    if (ids.length === 0) return [];
    const changed = await this.twins.changed(this.db, ids);
    if (this.areTwinsTold) return changed;
    this.areTwinsTold = true;
    const said = this.saying(TWIN);
    return [...changed, ...said.filter((id) => !this.twins.has(id)), ...missingFrom(said, this.twins.ids)];
  }

  private saying(tree: Query): readonly number[] {
    const sort = { field: 'number', descending: false } as const;
    return this.index.search({ tree, sort, offset: 0, limit: ALL }).ids;
  }

  private async readWatched(): Promise<void> {
    this.watched = await watchedBins(this.db, await readFields(this.db));
    await this.learnAsked(this.watched.map(({ tree }) => tree));
  }

  private async reload(changed: readonly number[], arrivals: Arrivals): Promise<void> {
    const ids = [...new Set([...changed, ...(await partsOf(this.db, changed))])];
    const assets = await assetsById(this.db, ids);
    const { documents, spoken } = await this.documents(assets);
    const there = new Set(assets.map((asset) => asset.id));
    const isSaid = new Set(spoken.map(({ id }) => id));
    arrivals.around(this.index, ids, () => {
      this.index.upsert(documents);
      this.index.remove(ids.filter((id) => !there.has(id)));
      this.hear(
        ids.filter((id) => !isSaid.has(id)),
        spoken,
      );
    });
  }

  /** A tag that was renamed is another word in every document that has it. */
  private async reloadTagged(tagId: number, arrivals: Arrivals): Promise<void> {
    for (let last = 0; ;) {
      const ids = await assetsTagged(this.db, tagId, last, BATCH);
      if (ids.length === 0) return;
      await this.reload(ids, arrivals);
      last = ids.at(-1) ?? last;
    }
  }

  /** A storage that went or came back changes the state of everything on it. */
  private async reloadStorage(storageId: number, arrivals: Arrivals): Promise<void> {
    for (let last = 0; ;) {
      const assets = await assetsOfStorage(this.db, storageId, last, BATCH);
      if (assets.length === 0) return;
      await this.reload(
        assets.map(({ id }) => id),
        arrivals,
      );
      last = assets.at(-1)?.id ?? last;
    }
  }
}

function missingFrom(some: readonly number[], all: readonly number[]): number[] {
  const there = new Set(some);
  return all.filter((id) => !there.has(id));
}
