import type { Job, ReadTable, TableLook, TableReport } from '@larder/contract';
import { job } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';
import { liveActions } from '../shared/live.actions';

const LOOK: TableLook = {
  ...{ table: 'a-table-that-was-sent', fileName: 'sheet.csv', delimiter: ',', rows: 3, issues: [] },
  columns: [
    { heading: 'Clip', samples: ['A001', 'A002'] },
    { heading: 'Headline', samples: ['Dawn'] },
    { heading: 'Keywords', samples: ['dawn, lock'] },
    { heading: 'Weather', samples: [] },
  ],
  uses: [{ use: 'match', key: 'name' }, { use: 'none' }, { use: 'tags' }, { use: 'none' }],
};
const REPORT: TableReport = {
  ...{ kept: false, rows: 3, matched: 2, changed: 1, same: 1, group: null },
  problems: { 'no-key': 0, 'no-match': 1, several: 0, twice: 0, refused: 2, conflict: 0 },
  shownProblems: [{ row: 4, kind: 'no-match', message: 'No asset has Name A003.' }],
  shownChanges: [{ row: 2, assetId: 1, name: 'A001.mov', field: 'title', before: null, after: 'Dawn' }],
};

let server: FakeServer;
let look: TableLook;
let report: TableReport | null;
let all: Job[];
const sent: unknown[] = [];

beforeEach(() => {
  [look, report, all] = [LOOK, null, []];
  sent.length = 0;
  server = new FakeServer()
    .on('jobs', () => ({ jobs: all }))
    .on('readTable', (body) => {
      all = [
        ...all,
        job(all.length + 7, { kind: 'table', subject: body.fileName, state: 'running', done: 1, total: 3 }),
      ];
      return { job: all.at(-1) as Job };
    })
    .on('tableReport', (_body, id) => ({
      job: all.find((each) => each.id === id) ?? job(id),
      asked: server.bodies('readTable').at(-1) as ReadTable,
      report,
    }));
  server.files.set('/files/tables', (address, file) => {
    sent.push([address, (file as File).name]);
    return look;
  });
});

async function chosen(screen: Screen): Promise<void> {
  const box = screen.one<HTMLInputElement>('input[type=file]');
  Object.defineProperty(box, 'files', { value: [new File(['x'], 'sheet.csv', { type: 'text/csv' })] });
  box.dispatchEvent(new Event('change'));
  await screen.says('nl-table h2', 'sheet.csv');
}

async function ended(screen: Screen, outcome: TableReport): Promise<void> {
  report = outcome;
  all = all.map((each) => ({ ...each, state: 'done' }));
  screen.dispatch(liveActions.jobs({ jobs: all }));
  await screen.says('[data-test=outcome]', outcome.kept ? 'read in' : 'only tried');
}

describe('reading a table', () => {
  it('its columns are told what they mean, it is tried, read in as it was tried, and undone', async () => {
    const screen = await Screen.open('/table', server, 'editor');
    await chosen(screen);
    expect(sent).toEqual([['/files/tables?name=sheet.csv', 'sheet.csv']]);
    expect(screen.text('.columns')).toContain('dawn, lock');
    await screen.choose('select[data-column="1"]', 'field title');
    await screen.choose('[data-test=other-tags]', 'drop');
    await screen.click('[data-test=try]');
    await until('the job in the address', () => screen.address === '/table?report=7');
    await screen.says('nl-job-progress', '1 of 3');
    await ended(screen, REPORT);
    expect(screen.text('[data-test=outcome]')).toContain(
      'Of 3 rows 2 match an asset: 1 would be changed, 1 says all of it',
    );
    expect(screen.text('.problems li')).toBe('1 row matches no asset 2 cells are not taken by their fields');
    expect(screen.text('.scroll td')).toContain('A001.mov Title empty Dawn');

    await screen.click('[data-test=keep]');
    await until('the second job', () => screen.address === '/table?report=8');
    const [tried, kept] = server.bodies('readTable');
    expect(tried).toMatchObject({
      ...{ table: LOOK.table, keep: false, empty: 'leave', otherTags: 'drop' },
      uses: [{ use: 'match', key: 'name' }, { use: 'field', field: 'title' }, { use: 'tags' }, { use: 'none' }],
    });
    expect(kept).toEqual({ ...tried, keep: true });
    await ended(screen, { ...REPORT, kept: true, group: 'the-group' });
    server.on('undo', ({ group }) => ({
      ...{ revision: 9, group: 'g', changed: 1, of: group ?? '' },
      ...{ action: 'edit', fields: [], assets: 1, atMs: 0 },
    }));
    await screen.click('[data-test=undo]');
    await screen.says('nl-toasts', '1 asset put back');
    expect(server.bodies('undo')).toEqual([{ group: 'the-group' }]);
    expect(screen.all('[data-test=undo]')).toHaveLength(0);
  });

  it('cannot be tried as long as no column names the asset, or nothing would be said', async () => {
    const screen = await Screen.open('/table', server, 'editor');
    await chosen(screen);
    await screen.choose('select[data-column="0"]', 'none');
    await screen.says('[data-test=use-issue]', 'Say by which column');
    expect(screen.one<HTMLButtonElement>('[data-test=try]').disabled).toBe(true);
    await screen.choose('select[data-column="0"]', 'match name');
    await screen.choose('select[data-column="2"]', 'none');
    await screen.says('[data-test=use-issue]', 'nothing would change');
  });

  it('one that is no table says why, and a job that fails leads back to the columns', async () => {
    look = { ...LOOK, issues: ['Row 4 has 5 cells, and the heading 4.'] };
    const screen = await Screen.open('/table', server, 'editor');
    await chosen(screen);
    await screen.says('[data-test=issues]', 'Row 4 has 5 cells');
    expect(screen.all('[data-test=try]')).toHaveLength(0);
    look = LOOK;
    await screen.click('button', 'Another table');
    await until('the choice', () => screen.all('input[type=file]').length > 0);
    await chosen(screen);
    await screen.click('[data-test=try]');
    await screen.says('nl-job-progress', '1 of 3');
    all = all.map((each) => ({ ...each, state: 'failed', message: 'The database went away.' }));
    screen.dispatch(liveActions.jobs({ jobs: all }));
    await screen.says('[role=alert]', 'The database went away.');
    // Nothing is kept of a trial, whatever became of it.
    expect(screen.text('[data-test=outcome]')).not.toContain('is kept');
    await screen.click('button', 'Back to the columns');
    await screen.says('.columns', 'dawn, lock');
  });

  it('a reading that was cancelled says that what it had read is kept, and how to take it back', async () => {
    all = [job(7, { kind: 'table', state: 'cancelled', message: 'Cancelled.', done: 2000 })];
    const { table, fileName, uses } = LOOK;
    const asked: ReadTable = {
      ...{ table, fileName, uses, empty: 'leave', otherTags: 'keep', keep: true, seenRevision: 1 },
    };
    server.on('tableReport', () => ({ job: all[0] as Job, asked, report: null }));
    const screen = await Screen.open('/table?report=7', server, 'editor');
    await screen.says('[data-test=outcome]', 'Cancelled.');
    await screen.says('[data-test=outcome]', 'What was read until then is kept');
  });

  it('a report that is gone, a refusal, and people who may not log', async () => {
    server.on('tableReport', () => new Refusal(404, { code: 'not-found', what: 'table' }));
    server.on('readTable', () => new Refusal(409, { code: 'refused', reason: 'Not now.' }));
    const screen = await Screen.open('/table?report=99', server, 'editor');
    await screen.says('[data-test=outcome]', 'no such table');
    await screen.click('button', 'Choose a table');
    await until('the choice', () => screen.all('input[type=file]').length > 0);
    await chosen(screen);
    await screen.click('[data-test=try]');
    await screen.says('nl-toasts', 'Not now.');
  });

  it('is for people who log', async () => {
    const screen = await Screen.open('/table', server, 'viewer');
    await screen.says('nl-table', 'Only people who log');
    expect(screen.all('input[type=file]')).toHaveLength(0);
  });
});
