import { once } from 'node:events';
import { finished } from 'node:stream/promises';
import { ValidationError } from 'yup';
import {
  type FieldRegistry,
  readerOf,
  tagSchema,
  valueText,
  type FieldChanges,
  type FieldId,
  type SettableField,
} from '@larder/core/fields';
import {
  keyHeading,
  readTable,
  tableText,
  wordTableIssue,
  writeRows,
  type MatchKey,
  type Table,
} from '@larder/core/interchange/table';
import { foldTag } from '@larder/core/tags';
import {
  TABLE_PROBLEMS,
  type FieldConflict,
  type ReadTable,
  type TableChange,
  type TableProblem,
  type TableProblemKind,
  type TableReport,
} from '@larder/contract';
import { select } from '../store/database';
import { sayEach, type EachChange, type EachSaid } from '../store/each-edits';
import { refused } from '../store/errors';
import { readFields } from '../store/shop-fields';
import { TableMatcher } from '../store/table-match';
import { allowedTags } from '../store/tags';
import type { JobContext } from './context';

/** Rows of one write: few enough that nobody waits for it, many enough that its questions do not count. */
const BATCH = 2000;
/** While the database writes the rows of one, the next are read: both have enough to do. */
const WRITES_AT_ONCE = 2;
const PROBLEMS_SHOWN = 200;
const CHANGES_SHOWN = 60;

type Asked = ReadTable & { readonly group: string };

interface Column {
  readonly index: number;
  readonly field: SettableField;
  readonly read: (text: string) => FieldChanges[SettableField['id']];
}

/** Reads a table that was sent into the library, in writes that are undone together; or tries it, doing everything but keep it. */
export async function readIntoLibrary(context: JobContext): Promise<Record<string, unknown>> {
  const asked = context.job.payload as unknown as Asked;
  const text = tableText(await context.tables.read(asked.table));
  if (text === null) throw refused(wordTableIssue({ code: 'not-text' }));
  const { table, issues } = readTable(text);
  const [issue] = issues;
  if (issue) throw refused(wordTableIssue(issue));
  const fields = await readFields(context.db);
  return { ...(await new TableReading(context, asked, table, fields).carryOut()) };
}

/** One row on its way: what it says, and of which asset. */
interface Row {
  readonly row: number;
  readonly cells: readonly string[];
}

/** Rows that are written together, and what became of them, for the report. */
interface Batch {
  readonly saying: ReadonlyMap<number, Row>;
  readonly report: string[][];
}

class TableReading {
  private readonly columns: readonly Column[];
  private readonly keys: readonly { readonly index: number; readonly key: MatchKey }[];
  private readonly tagColumns: readonly number[];
  private readonly problems = Object.fromEntries(TABLE_PROBLEMS.map((kind) => [kind, 0])) as Record<
    TableProblemKind,
    number
  >;
  private readonly shownProblems: TableProblem[] = [];
  private readonly shownChanges: TableChange[] = [];
  /** The row that each asset was meant by. */
  private readonly meantBy = new Map<number, number>();
  private changed = 0;

  constructor(
    private readonly context: JobContext,
    private readonly asked: Asked,
    private readonly table: Table,
    private readonly fields: FieldRegistry,
  ) {
    this.columns = asked.uses.flatMap((use, index) => {
      const field = use.use === 'field' && fields.settable.find(({ id }) => id === use.field);
      return field ? [{ index, field, read: readerOf(field, fields) }] : [];
    });
    this.keys = asked.uses.flatMap((use, index) => (use.use === 'match' ? [{ index, key: use.key }] : []));
    this.tagColumns = asked.uses.flatMap(({ use }, index) => (use === 'tags' ? [index] : []));
  }

  async carryOut(): Promise<TableReport> {
    const { db, job, signal, report, tables } = this.context;
    const { rows, numbers } = this.table;
    const matcher = await TableMatcher.open(db);
    const file = await tables.openReport(job.id);
    file.write(`\uFEFF${writeRows([['Row', 'What became of it', 'Asset number', 'Fields', 'Why']], ',')}`);
    const writing: Promise<Batch>[] = [];
    let done = 0;
    const written = async (batch: Promise<Batch> | undefined) => {
      const lines = (await batch)?.report ?? [];
      report({ done: (done = Math.min(done + BATCH, rows.length)), total: rows.length });
      if (!file.write(writeRows(lines, ','))) await once(file, 'drain');
    };
    try {
      report({ done, total: rows.length });
      for (let start = 0; start < rows.length; start += BATCH) {
        signal.throwIfAborted();
        const batch = await this.matched(
          rows.slice(start, start + BATCH).map((cells, index) => ({ row: numbers[start + index] ?? 0, cells })),
          matcher,
        );
        if (writing.length === WRITES_AT_ONCE) await written(writing.shift());
        const write = this.write(batch);
        // It is waited for in its turn; until then it is nobody's.
        write.catch(() => undefined);
        writing.push(write);
      }
      while (writing.length > 0) await written(writing.shift());
    } finally {
      await Promise.allSettled(writing);
      file.end();
      await finished(file);
    }
    const group = this.asked.keep ? this.asked.group : null;
    // What was kept before an interruption counts too.
    const kept = group === null ? this.changed : await changedBy(this.context, group);
    return {
      ...{ kept: this.asked.keep, rows: rows.length, matched: this.meantBy.size, changed: kept },
      same: this.meantBy.size - kept,
      problems: this.problems,
      shownProblems: this.shownProblems.toSorted((a, b) => a.row - b.row),
      shownChanges: this.shownChanges,
      group: kept > 0 ? group : null,
    };
  }

  private async write(batch: Batch): Promise<Batch> {
    const { db, job } = this.context;
    const { saying } = batch;
    const allowed = await this.tagsAllowed([...saying.values()]);
    const said = new Map<number, EachSaid>();
    for (const [assetId, row] of saying) said.set(assetId, this.read(row, assetId, allowed, batch));
    if (said.size === 0) return batch;
    const names = new Map<number, string>();
    let left: readonly FieldConflict[] = [];
    const { changes } = await sayEach(db, job.personId ?? 0, {
      ...{ assetIds: [...said.keys()], seenRevision: this.asked.seenRevision, group: this.asked.group },
      dry: !this.asked.keep,
      decide: (assets) => {
        for (const { id, name } of assets) names.set(id, name);
        return said;
      },
      leftOut: (conflicts) => (left = conflicts),
    });
    for (const { assetId, field, by, theirs } of left) {
      const label = this.fields.labelOf(field);
      const message = `${label}: ${by ?? 'somebody'} has said “${valueText(theirs, this.fields.byId(field)?.type)}” since the table was tried.`;
      this.problem(batch, this.meantBy.get(assetId) ?? 0, 'conflict', message, assetId);
    }
    this.note(batch, changes, names);
    return batch;
  }

  /** The rows that mean one asset each, by its id; of the others it is said why they do not. */
  private async matched(rows: readonly Row[], matcher: TableMatcher): Promise<Batch> {
    const keyed = rows.map((row) => ({
      row,
      keys: new Map(
        this.keys.flatMap(({ index, key }): [MatchKey, string][] => {
          const text = row.cells[index]?.trim() ?? '';
          return text === '' ? [] : [[key, text]];
        }),
      ),
    }));
    const matches = await matcher.match(keyed.map(({ keys }) => keys));
    const saying = new Map<number, Row>();
    const batch: Batch = { saying, report: [] };
    for (const [index, { row, keys }] of keyed.entries()) {
      const match = matches[index];
      const sought = [...keys].map(([key, text]) => `${keyHeading(key)} ${text}`).join(', ');
      if (!match || keys.size === 0) this.problem(batch, row.row, 'no-key', 'It does not say which asset is meant.');
      else if ('none' in match) this.problem(batch, row.row, 'no-match', `No asset has ${sought}.`);
      else if ('several' in match) this.problem(batch, row.row, 'several', `${match.several} assets have ${sought}.`);
      else {
        const before = this.meantBy.get(match.id);
        if (before !== undefined)
          this.problem(batch, row.row, 'twice', `Row ${before} means the same asset; this one is left out.`, match.id);
        else {
          this.meantBy.set(match.id, row.row);
          saying.set(match.id, row);
        }
      }
    }
    return batch;
  }

  /** Of the tags of some rows those that may be put on; null where any may. */
  private async tagsAllowed(rows: readonly Row[]): Promise<ReadonlySet<string> | null> {
    return this.tagColumns.length === 0
      ? null
      : allowedTags(
          this.context.db,
          rows.flatMap((row) => this.tagNames(row)),
        );
  }

  private tagNames({ cells }: Row): string[] {
    return this.tagColumns.flatMap((index) =>
      (cells[index] ?? '')
        .split(',')
        .map((name) => name.trim())
        .filter(Boolean),
    );
  }

  private read(row: Row, assetId: number, allowed: ReadonlySet<string> | null, batch: Batch): EachSaid {
    const set: FieldChanges = {};
    for (const { index, field, read } of this.columns) {
      const text = row.cells[index] ?? '';
      if (text.trim() === '' && this.asked.empty === 'leave') continue;
      try {
        set[field.id] = read(text) ?? null;
      } catch (error) {
        if (!(error instanceof ValidationError)) throw error;
        this.problem(batch, row.row, 'refused', `“${shortened(text)}”: ${error.message}`, assetId);
      }
    }
    const names = this.tagNames(row);
    const good = names.filter((name) => {
      const message = !tagSchema.isValidSync(name)
        ? 'no tag can be called that.'
        : allowed && !allowed.has(foldTag(name))
          ? 'no tag of any set, and only those are used in this library.'
          : null;
      if (message) this.problem(batch, row.row, 'refused', `“${shortened(name)}”: ${message}`, assetId);
      return message === null;
    });
    const others = this.asked.otherTags;
    // A row without tags takes none away, unless empty cells are meant.
    const tagging = names.length > 0 ? good.length === names.length || others === 'keep' : this.asked.empty === 'clear';
    return { set, ...(this.tagColumns.length > 0 && tagging ? { tags: { names: good, others } } : {}) };
  }

  private note({ saying, report }: Batch, changes: readonly EachChange[], names: ReadonlyMap<number, string>): void {
    this.changed += changes.length;
    const changed = new Map(changes.map((change) => [change.id, change]));
    for (const [assetId, { row }] of saying) {
      const change = changed.get(assetId);
      const fields = Object.keys(change?.after ?? {}).map((id) => (id === 'tags' ? 'tag' : id) as FieldId);
      report.push([
        String(row),
        !change ? 'says it already' : this.asked.keep ? 'changed' : 'would be changed',
        String(assetId),
        fields.map((id) => this.fields.labelOf(id)).join(', '),
        '',
      ]);
      for (const field of fields)
        if (change && this.shownChanges.length < CHANGES_SHOWN) {
          const key = field === 'tag' ? 'tags' : (field as SettableField['id']);
          const [before, after] = [change.before[key] ?? null, change.after[key] ?? null];
          this.shownChanges.push({ row, assetId, name: names.get(assetId) ?? '', field, before, after });
        }
    }
  }

  private problem({ report }: Batch, row: number, kind: TableProblemKind, message: string, assetId?: number): void {
    this.problems[kind] += 1;
    if (this.shownProblems.length < PROBLEMS_SHOWN) this.shownProblems.push({ row, kind, message });
    report.push([
      String(row),
      kind === 'refused' || kind === 'conflict' ? 'a cell was left out' : 'left out',
      assetId === undefined ? '' : String(assetId),
      '',
      message,
    ]);
  }
}

const CELL_SHOWN = 60;
const shortened = (text: string): string => (text.length > CELL_SHOWN ? `${text.slice(0, CELL_SHOWN)}…` : text);

async function changedBy({ db }: JobContext, group: string): Promise<number> {
  const [row] = await select<{ count: number }>(
    db,
    'SELECT COUNT(DISTINCT entity_id) AS count FROM change_feed WHERE change_group = :group',
    { group },
  );
  return Number(row?.count ?? 0);
}
