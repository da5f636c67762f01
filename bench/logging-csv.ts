import { writeRows } from '@larder/core/interchange/table';
import { FILE_PATHS, ROUTES, type Job, type TableAnswer, type TableLook } from '@larder/contract';
import { QueryTypes } from 'sequelize';
import { round, seconds, type Figure } from './kit';
import { PASSWORD, served, type Served } from './served';

const ROWS = 100_000;
const BATCH = 1000;
const POLL_MS = 100;

/** Twenty columns: one that names the clip, and nineteen that say something of it. */
const COLUMNS: readonly (readonly [heading: string, cell: (row: number) => string])[] = [
  ['Asset number', (row) => String(row)],
  ['Title', (row) => `Lower gate, ${row}`],
  ['Description', (row) => `The gate opens, "slowly"; a barge waits.\nSeen from the towpath, ${row}.`],
  ['Notes', (row) => `Wind on the microphone in ${row % 900}`],
  ['Verdict', (row) => ['circled', 'hold', 'ng'][row % 3] ?? ''],
  ['Rating', (row) => String(1 + (row % 5))],
  ['Reel', (row) => `A${row % 400}`],
  ['Scene', (row) => `${row % 90}A`],
  ['Take', (row) => String(1 + (row % 12))],
  ['Slate', (row) => String(row % 3000)],
  ['Camera', (row) => 'ABC'.charAt(row % 3)],
  ['Lens', (row) => `${18 + (row % 5) * 8} mm`],
  ['Sound roll', (row) => `S${row % 40}`],
  ['Shot size', (row) => ['wide', 'medium', 'close-up'][row % 3] ?? ''],
  ['Angle', (row) => ['low', 'high', 'eye level'][row % 3] ?? ''],
  ['People', (row) => `Ada Fenn, Person ${row % 60}`],
  ['Place', (row) => `Lock ${row % 30}, Ottermouth`],
  ['Rights', () => 'Cleared for the series'],
  ['Source', (row) => `Shoot ${row % 3}`],
  ['Tags', (row) => (row % 2 === 0 ? 'dawn' : 'dusk, noon')],
];

async function answered<T>(base: string, cookie: string, method: string, path: string, body?: BodyInit): Promise<T> {
  const headers = { cookie, 'content-type': typeof body === 'string' ? 'application/json' : 'text/csv' };
  const answer = await fetch(base + path, { method, headers, ...(body === undefined ? {} : { body }) });
  if (!answer.ok) throw new Error(`${path}: ${await answer.text()}`);
  return (await answer.json()) as T;
}

/** A table of a hundred thousand rows, from the moment it is sent until all of it is stored. */
export async function csvFigure(print: (figure: Figure) => void): Promise<void> {
  const rows = Array.from({ length: ROWS }, (_unused, n) => COLUMNS.map(([, cell]) => cell(n + 1)));
  const text = writeRows([COLUMNS.map(([heading]) => heading), ...rows], ',');
  await served(ROWS, async ({ library, base, db }) => {
    library.startWorkers();
    const login = await fetch(`${base}${ROUTES.signIn.path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ login: 'maren', password: PASSWORD }),
    });
    const cookie = login.headers.get('set-cookie')?.split(';')[0] ?? '';
    const began = performance.now();
    const look = await answered<TableLook>(base, cookie, 'POST', FILE_PATHS.tables, new TextEncoder().encode(text));
    const { table, fileName, uses } = look;
    const asked = { table, fileName, uses, empty: 'leave', otherTags: 'keep', keep: true, seenRevision: 1e9 };
    const body = JSON.stringify(asked);
    const { job } = await answered<{ job: Job }>(base, cookie, 'POST', ROUTES.readTable.path, body);
    const path = ROUTES.tableReport.path.replace(':id', String(job.id));
    for (let done = false; !done;) {
      await new Promise((resolve) => setTimeout(resolve, POLL_MS));
      const answer = await answered<TableAnswer>(base, cookie, 'GET', path);
      if (answer.job.state === 'failed') throw new Error(answer.job.message ?? 'it failed');
      if (answer.report && answer.report.changed !== ROWS) throw new Error(`${answer.report.changed} were changed`);
      done = answer.report !== null;
    }
    const took = seconds(began);
    const bare = await bareInsert(db, rows);
    print({
      ...{ name: 'logging.csv', value: round(took), unit: 's' },
      peer: `INSERT of the same cells into a table of ${COLUMNS.length} columns of text, by the database alone: ${round(bare)} s`,
      ratio: round(took / bare),
    });
  });
}

async function bareInsert(db: Served['db'], rows: readonly (readonly string[])[]): Promise<number> {
  await db.query(`CREATE TABLE bare_table (${COLUMNS.map((_unused, n) => `c${n} TEXT`).join(', ')})`);
  const began = performance.now();
  await db.transaction(async (transaction) => {
    for (let start = 0; start < rows.length; start += BATCH)
      await db.query('INSERT INTO bare_table VALUES :rows', {
        ...{ replacements: { rows: rows.slice(start, start + BATCH) } },
        ...{ transaction, type: QueryTypes.INSERT },
      });
  });
  const took = seconds(began);
  await db.query('DROP TABLE bare_table');
  return took;
}
