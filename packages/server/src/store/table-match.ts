import type { Sequelize } from 'sequelize';
import { fold } from '@larder/core/fields';
import type { MatchKey } from '@larder/core/interchange/table';
import { countingForRate, formatTimecode, rational } from '@larder/core/timecode';
import { pathHash } from '../jobs/catalogue';
import { likeText, select } from './database';

/** What a row says of which asset is meant. */
export type RowKeys = ReadonlyMap<MatchKey, string>;
export type Match = { readonly id: number } | { readonly none: true } | { readonly several: number };

interface Candidate {
  readonly id: number;
  readonly name: string;
  readonly path: string | null;
  readonly storage: string | null;
  readonly reel: string | null;
  readonly start: string | null;
  readonly hashes: ReadonlySet<string>;
}

interface CandidateRow {
  readonly id: number;
  readonly name: string;
  readonly path: string | null;
  readonly storage: string | null;
  readonly reel: string | null;
  readonly startFrame: number | null;
  readonly rateNum: number | null;
  readonly rateDen: number | null;
  readonly dropFrame: number;
}

/** In the order in which they tell most: by the first that a row has it is looked up, by the others what was found is held to it. */
const LOOK_UP = ['asset', 'path', 'checksum', 'name', 'reel'] as const satisfies readonly MatchKey[];

/** Finds the assets that rows mean. Every key that a row has must agree; what is empty does not count. */
export class TableMatcher {
  private constructor(
    private readonly db: Sequelize,
    private readonly storages: readonly { readonly id: number; readonly name: string }[],
  ) {}

  static async open(db: Sequelize): Promise<TableMatcher> {
    return new TableMatcher(db, await select<{ id: number; name: string }>(db, 'SELECT id, name FROM storage'));
  }

  async match(rows: readonly RowKeys[]): Promise<readonly Match[]> {
    const found = new Map<(typeof LOOK_UP)[number], readonly Candidate[]>();
    for (const key of LOOK_UP) {
      const wanted = rows.filter((row) => leading(row) === key).map((row) => row.get(key) ?? '');
      if (wanted.length > 0) found.set(key, await this.candidates(key, [...new Set(wanted)]));
    }
    const byValue = new Map<string, Candidate[]>();
    for (const [key, candidates] of found)
      for (const candidate of candidates)
        for (const value of namesOf(candidate, key)) {
          const at = `${key} ${value}`;
          const known = byValue.get(at);
          if (known) known.push(candidate);
          else byValue.set(at, [candidate]);
        }
    return rows.map((row) => matchOf(row, byValue));
  }

  private async candidates(key: (typeof LOOK_UP)[number], values: readonly string[]): Promise<Candidate[]> {
    const ids = await this.ids(key, values);
    if (ids.length === 0) return [];
    const rows = await select<CandidateRow>(
      this.db,
      `SELECT a.id, a.name, a.path, s.name AS storage, a.reel, a.start_frame AS startFrame, a.rate_num AS rateNum, a.rate_den AS rateDen, a.drop_frame AS dropFrame
       FROM asset a LEFT JOIN storage s ON s.id = a.storage_id WHERE a.id IN (:ids)`,
      { ids },
    );
    const hashes = new Map<number, Set<string>>();
    if (key === 'checksum')
      for (const { assetId, xxh64 } of await select<{ assetId: number; xxh64: string }>(
        this.db,
        'SELECT DISTINCT asset_id AS assetId, xxh64 FROM fixity WHERE asset_id IN (:ids) AND xxh64 IS NOT NULL',
        { ids },
      ))
        hashes.set(assetId, (hashes.get(assetId) ?? new Set()).add(xxh64));
    return rows.map((row) => ({ ...row, start: startOf(row), hashes: hashes.get(row.id) ?? new Set() }));
  }

  private async ids(key: (typeof LOOK_UP)[number], values: readonly string[]): Promise<number[]> {
    const [sql, replacements] = this.question(key, values);
    return (await select<{ id: number }>(this.db, sql, replacements)).map(({ id }) => Number(id));
  }

  private question(
    key: (typeof LOOK_UP)[number],
    values: readonly string[],
  ): readonly [sql: string, replacements: Record<string, unknown>] {
    switch (key) {
      case 'asset':
        return [
          'SELECT id FROM asset WHERE id IN (:ids)',
          { ids: [0, ...values.filter((value) => /^\d{1,15}$/.test(value)).map(Number)] },
        ];
      case 'path': {
        const hashes = values.flatMap((path) => [path, this.withinStorage(path)]).map(pathHash);
        return [
          'SELECT id FROM asset WHERE storage_id IN (:storages) AND path_hash IN (:hashes)',
          { storages: [0, ...this.storages.map(({ id }) => id)], hashes },
        ];
      }
      case 'checksum':
        return [
          'SELECT DISTINCT asset_id AS id FROM fixity WHERE xxh64 IN (:values)',
          { values: values.map((value) => value.toLowerCase()) },
        ];
      case 'name': {
        // Log sheets mostly leave the ending away.
        const begun = values.map(
          (_unused, index) => `SELECT id FROM asset WHERE name = :n${index} OR name LIKE :l${index}`,
        );
        return [
          begun.join(' UNION '),
          Object.fromEntries(
            values.flatMap((value, index) => [
              [`n${index}`, value],
              [`l${index}`, `${likeText(value)}.%`],
            ]),
          ),
        ];
      }
      case 'reel':
        return ['SELECT id FROM asset WHERE reel IN (:values)', { values }];
      default:
        return key satisfies never;
    }
  }

  /** A path as the library shows it, without its storage's name before it. */
  private withinStorage(path: string): string {
    const storage = this.storages.find(({ name }) => path.startsWith(`${name}/`));
    return storage ? path.slice(storage.name.length + 1) : path;
  }
}

const leading = (row: RowKeys): (typeof LOOK_UP)[number] | undefined => LOOK_UP.find((key) => row.has(key));

/** Semicolon and colon before the frames are one: whether a timecode drops frames is its asset's to say. */
const sameTime = (text: string): string => text.replace(/;/g, ':');
const withoutEnding = (name: string): string => name.replace(/\.[^.]*$/, '');

function startOf({ startFrame, rateNum, rateDen, dropFrame }: CandidateRow): string | null {
  if (startFrame === null || rateNum === null || rateDen === null) return null;
  return formatTimecode(startFrame, countingForRate(rational(rateNum, rateDen), Boolean(dropFrame)));
}

/** Every text by which a candidate answers to a key, in the form that `valueFor` gives texts of a table. */
function namesOf(candidate: Candidate, key: MatchKey): readonly string[] {
  switch (key) {
    case 'asset':
      return [String(candidate.id)];
    case 'path':
      return candidate.path === null ? [] : [candidate.path, `${candidate.storage ?? ''}/${candidate.path}`];
    case 'checksum':
      return [...candidate.hashes];
    case 'name':
      return [...new Set([fold(candidate.name), fold(withoutEnding(candidate.name))])];
    case 'start':
      return candidate.start === null ? [] : [sameTime(candidate.start)];
    case 'reel':
      return candidate.reel === null ? [] : [fold(candidate.reel)];
    default:
      return key satisfies never;
  }
}

function valueFor(key: MatchKey, text: string): string {
  if (key === 'start') return sameTime(text);
  if (key === 'checksum') return text.toLowerCase();
  if (key === 'asset') return text.replace(/^0+(?=\d)/, '');
  return key === 'path' ? text : fold(text);
}

function matchOf(row: RowKeys, byValue: ReadonlyMap<string, readonly Candidate[]>): Match {
  const key = leading(row);
  if (!key) return { none: true };
  const all = byValue.get(`${key} ${valueFor(key, row.get(key) ?? '')}`) ?? [];
  const agreeing = all.filter((candidate) =>
    [...row].every(([each, text]) => namesOf(candidate, each).includes(valueFor(each, text))),
  );
  // Names differ in capitals on some disks: as it is written comes first.
  const exact = agreeing.filter(({ name }) => key === 'name' && name === row.get('name'));
  const meant = exact.length > 0 ? exact : agreeing;
  const [first] = meant;
  return !first ? { none: true } : meant.length > 1 ? { several: meant.length } : { id: first.id };
}
