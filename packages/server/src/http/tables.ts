import { existsSync } from 'node:fs';
import express, { type Express, type Request, type Response } from 'express';
import type { Sequelize } from 'sequelize';
import { valueText, type FieldId, type FieldRegistry } from '@larder/core/fields';
import {
  keyHeading,
  proposeUses,
  readTable,
  tableText,
  TAGS_HEADING,
  wordTableIssue,
  writeRows,
} from '@larder/core/interchange/table';
import { MarkingRules } from '@larder/core/markings';
import { formatTimecode } from '@larder/core/timecode';
import {
  countingOf,
  fieldValues,
  FILE_PATHS,
  orderBySchema,
  TABLE_FORMATS,
  type AskedOrder,
  type Asset,
  type Person,
  type TableFormat,
  type TableLook,
} from '@larder/contract';
import type { TableStore } from '../media/table-store';
import type { SearchClient } from '../search/client';
import { assetsById } from '../store/assets';
import { headRevision } from '../store/change-feed';
import { notFound, refused, RequestError } from '../store/errors';
import { binOrder } from '../store/bins';
import { meantBy, treeOf } from '../store/live-bins';
import { markings } from '../store/markings';
import { send } from './files';
import { admit, signedIn, type Identify } from './router';

/** A log sheet of a hundred thousand rows and twenty columns has about 40 MB. */
const MOST_BYTES = 150_000_000;
const SAMPLES = 3;
const SAMPLE_LENGTH = 80;
const ROWS_AT_ONCE = 500;
const ALL = 1_000_000_000;

export interface TableServices {
  readonly db: Sequelize;
  readonly search: SearchClient;
  readonly tables: TableStore;
  fields(): FieldRegistry;
}

/** Tables both ways: what a search found, to be taken along; a file that is sent, looked at before it is read. */
export function mountTables(app: Express, services: TableServices, identify: Identify): void {
  const { tables } = services;
  app.post(
    FILE_PATHS.tables,
    async (request: Request, _response: Response, next) => {
      await admit(request, 'log', identify);
      if (request.headers['sec-fetch-site'] === 'cross-site') throw new RequestError({ code: 'not-allowed' });
      next();
    },
    express.raw({ type: () => true, limit: MOST_BYTES }),
    async (request: Request, response: Response) => {
      const bytes = request.body instanceof Uint8Array ? request.body : new Uint8Array();
      const look = tableLook(bytes, fileNameOf(request), services.fields());
      response.json({ ...look, table: look.issues.length > 0 ? '' : await tables.keep(bytes) } satisfies TableLook);
    },
  );
  app.get(`${FILE_PATHS.tables}/:id`, async (request: Request, response: Response) => {
    await admit(request, 'look', identify);
    const id = Number(request.params['id']);
    const path = Number.isSafeInteger(id) && id > 0 ? tables.reportPath(id) : '';
    if (!existsSync(path)) throw notFound('report');
    response.attachment(`report-${id}.csv`);
    await send(response, path, 'text/csv; charset=utf-8');
  });
  for (const format of TABLE_FORMATS)
    app.get(`/files/table.${format}`, async (request: Request, response: Response) => {
      const person = await admit(request, 'look', identify);
      await sendTable(services, format, signedIn(person), request, response);
    });
}

const fileNameOf = (request: Request): string =>
  (typeof request.query['name'] === 'string' ? request.query['name'] : 'table.csv').slice(0, 200);

function tableLook(bytes: Uint8Array, fileName: string, fields: FieldRegistry): Omit<TableLook, 'table'> {
  const text = tableText(bytes);
  const { table, issues } =
    text === null
      ? {
          table: { delimiter: ',' as const, heading: [], rows: [], numbers: [] },
          issues: [{ code: 'not-text' as const }],
        }
      : readTable(text);
  const samples = (column: number): string[] => {
    const said = new Set<string>();
    for (const cells of table.rows) {
      const cell = cells[column]?.trim();
      if (cell) said.add(cell.slice(0, SAMPLE_LENGTH));
      if (said.size === SAMPLES) break;
    }
    return [...said];
  };
  return {
    fileName,
    delimiter: table.delimiter,
    rows: table.rows.length,
    columns: table.heading.map((heading, column) => ({ heading, samples: samples(column) })),
    uses: proposeUses(table.heading, fields),
    issues: issues.map(wordTableIssue),
  };
}

/** One column of a table that is written: its heading, and what it says of an asset. */
interface WrittenColumn {
  readonly heading: string;
  text(asset: Asset): string;
}

/** What an asset is marked as, by hand or by a rule. Read back it is the marking by hand that counts, in a column of its own. */
const MARKED_AS = 'Marked as';

/** What names an asset again when the table comes back. */
const KEY_COLUMNS: readonly WrittenColumn[] = [
  { heading: keyHeading('asset'), text: ({ id }) => String(id) },
  { heading: keyHeading('path'), text: ({ storage, path }) => `${storage}/${path}` },
];

const startText = (asset: Asset): string => {
  const counting = countingOf(asset);
  return counting && asset.startFrame !== null ? formatTimecode(asset.startFrame, counting) : '';
};

/** Fields whose values a person reads otherwise than they are kept. */
const WORDED: Readonly<Partial<Record<FieldId, (asset: Asset) => string>>> = {
  duration: ({ durationMs }) => (durationMs === null ? '' : String(durationMs / 1000)),
  shot: ({ shotMs }) => (shotMs === null ? '' : new Date(shotMs).toISOString()),
  added: ({ addedMs }) => new Date(addedMs).toISOString(),
};

function columnsOf(request: Request, fields: FieldRegistry, rules: MarkingRules): readonly WrittenColumn[] {
  const asked = typeof request.query['columns'] === 'string' ? request.query['columns'] : '';
  const ids = asked.split(',').filter(Boolean);
  const own = ids.map((id): WrittenColumn => {
    if (id === 'start') return { heading: keyHeading('start'), text: startText };
    const field = fields.byId(id);
    if (!field) throw refused(`There is no column ${id.slice(0, 60)}.`);
    if (field.type === 'tags') return { heading: TAGS_HEADING, text: ({ tags }) => tags.join(', ') };
    const worded = WORDED[field.id];
    return {
      heading: field.id === 'duration' ? `${field.label} in seconds` : field.label,
      text: worded ?? ((asset) => valueText(fieldValues(asset)[field.id], field.type)),
    };
  });
  const known = new Set(KEY_COLUMNS.map(({ heading }) => heading));
  const marked: WrittenColumn = {
    heading: MARKED_AS,
    text: (asset) => rules.of({ values: fieldValues(asset) })?.name ?? '',
  };
  return [
    ...KEY_COLUMNS,
    ...(ids.includes('marking') ? [marked] : []),
    ...own.filter(({ heading }) => !known.has(heading)),
  ];
}

/** The order that the list is asked for in; by name if it is none. */
function orderOf(request: Request, fields: FieldRegistry): AskedOrder {
  const { order } = request.query;
  try {
    const asked: unknown = JSON.parse(typeof order === 'string' ? order : '{}');
    return orderBySchema.validateSync(asked, { context: { fields } });
  } catch {
    throw refused('That is no order of a list.');
  }
}

async function sendTable(
  { db, search, fields }: TableServices,
  format: TableFormat,
  person: Person,
  request: Request,
  response: Response,
): Promise<void> {
  const query = typeof request.query['query'] === 'string' ? request.query['query'].slice(0, 2000) : '';
  const { hand, ...sort } = orderOf(request, fields());
  const columns = columnsOf(request, fields(), new MarkingRules(await markings(db), fields()));
  const { value } = await search.ask({
    ask: 'search',
    tree: await meantBy(person, treeOf(query, fields()), fields()),
    sort,
    ...(hand === undefined ? {} : { order: await binOrder(db, hand) }),
    ...{ offset: 0, limit: ALL, atLeast: await headRevision(db) },
  });
  const delimiter = format === 'csv' ? ',' : '\t';
  response.attachment(`assets.${format}`).type(format === 'csv' ? 'text/csv' : 'text/tab-separated-values');
  response.set('Cache-Control', 'no-store');
  // With its mark spreadsheets take it for UTF-8.
  response.write(`\uFEFF${writeRows([columns.map(({ heading }) => heading)], delimiter)}`);
  for (let start = 0; start < value.ids.length && !response.destroyed; start += ROWS_AT_ONCE) {
    const assets = await assetsById(db, value.ids.slice(start, start + ROWS_AT_ONCE));
    const rows = assets.map((asset) => columns.map(({ text }) => text(asset)));
    if (!response.write(writeRows(rows, delimiter))) await drained(response);
  }
  response.end();
}

/** Until more can be sent, or nobody is there to take it. */
const drained = (response: Response): Promise<void> =>
  new Promise((resolve) => {
    response.once('drain', resolve);
    response.once('close', resolve);
  });
