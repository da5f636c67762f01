import type { Sequelize } from 'sequelize';
import { select, selectByIds } from '../store/database';

interface Row {
  readonly id: number;
  readonly fingerprint: string;
  readonly bytes: number;
}

const keyOf = ({ fingerprint, bytes }: Row): string => `${fingerprint} ${bytes}`;

/** Assets whose file the library has a second time: of one fingerprint, and as long. */
export class Twins {
  /** Of each file that there is more than once, the assets it is catalogued as. */
  private readonly groups = new Map<string, Set<number>>();
  private readonly keys = new Map<number, string>();

  static async read(db: Sequelize): Promise<Twins> {
    const twins = new Twins();
    const rows = await select<Row>(
      db,
      `SELECT a.id, a.fingerprint, a.bytes FROM asset a
       JOIN (SELECT fingerprint FROM asset WHERE fingerprint IS NOT NULL GROUP BY fingerprint HAVING COUNT(*) > 1) f ON f.fingerprint = a.fingerprint`,
    );
    twins.put(rows);
    twins.dropSingle(twins.groups.keys());
    return twins;
  }

  has(id: number): boolean {
    return this.keys.has(id);
  }

  get ids(): readonly number[] {
    return [...this.keys.keys()];
  }

  /** Takes in that assets came, went or are of another file; tells who else is a twin now, or is none any longer. */
  async changed(db: Sequelize, ids: readonly number[]): Promise<number[]> {
    const rows = await selectByIds<Row>(
      db,
      `SELECT id, fingerprint, bytes FROM asset
       WHERE fingerprint IN (SELECT fingerprint FROM asset WHERE id IN (:ids) AND fingerprint IS NOT NULL)`,
      ids,
    );
    const left = ids.flatMap((id) => this.keys.get(id) ?? []);
    const around = new Set([...left.flatMap((key) => [...(this.groups.get(key) ?? [])]), ...rows.map(({ id }) => id)]);
    const before = new Map([...around].map((id) => [id, this.has(id)]));
    for (const id of ids) this.take(id);
    this.put(rows);
    this.dropSingle([...left, ...rows.map(keyOf)]);
    const told = new Set(ids);
    return [...around].filter((id) => !told.has(id) && before.get(id) !== this.has(id));
  }

  private take(id: number): void {
    const key = this.keys.get(id);
    if (key === undefined) return;
    this.keys.delete(id);
    this.groups.get(key)?.delete(id);
  }

  private put(rows: readonly Row[]): void {
    for (const row of rows) {
      const key = keyOf(row);
      const group = this.groups.get(key);
      if (group) group.add(row.id);
      else this.groups.set(key, new Set([row.id]));
      this.keys.set(row.id, key);
    }
  }

  private dropSingle(keys: Iterable<string>): void {
    for (const key of [...keys]) {
      const group = this.groups.get(key);
      if (!group || group.size > 1) continue;
      for (const id of group) this.keys.delete(id);
      this.groups.delete(key);
    }
  }
}
