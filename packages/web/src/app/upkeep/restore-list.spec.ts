import type { RestoreList, RestoreRow, Role } from '@larder/contract';
import { job, storage } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';
import { liveActions } from '../shared/live.actions';

const row = (assetId: number, changes: Partial<RestoreRow> = {}): RestoreRow => ({
  ...{ assetId, name: `A001C00${assetId}.mov`, state: 'missing', reel: 'A001', counting: '25', startFrame: 90_000 },
  ...{ durationFrames: 250, ranges: [], uses: [], lastSeen: `Shelf 1/A001/A001C00${assetId}.mov`, bytes: 1_000_000 },
  ...{ xxh64: null, archived: null, job: null },
  ...changes,
});
const onTape = { tape: 'SW01', path: 'A001/A001C002.mov', likeness: 'equivalent', probability: 0.98 } as const;
const rows = [
  row(1, { uses: ['Film, First'], ranges: [] }),
  row(2, { archived: onTape, state: 'changed' }),
  row(3, {
    archived: onTape,
    job: job(30, { kind: 'restore', state: 'failed', message: 'There is no tape SW01 on the shelf.' }),
  }),
  row(4, { archived: onTape, job: job(31, { kind: 'restore', state: 'queued' }) }),
  row(5, { reel: null, counting: null, startFrame: null, durationFrames: null, name: 'wind.wav' }),
];
const list = (changes: Partial<RestoreList> = {}): RestoreList => ({
  ...{ total: 5, bytes: 5_000_000, archived: 3, rows, archive: { name: 'Tape shelf', files: 36, troubles: [] } },
  ...changes,
});
const MAY_COPY = [storage(1), storage(2, { managed: true }), storage(3, { managed: true, state: 'offline' })];

async function open(
  address = '/upkeep/restore',
  prepare: (server: FakeServer) => unknown = () => undefined,
  role: Role = 'manager',
) {
  const server = new FakeServer()
    .on('storages', () => ({ storages: MAY_COPY }))
    .on('jobs', () => ({ jobs: [] }))
    .on('restoreList', () => list());
  prepare(server);
  const screen = await Screen.open(address, server, role);
  return { server, screen };
}
const texts = (screen: Screen, selector: string) =>
  screen.all(selector).map((each) => each.textContent?.replace(/\s+/g, ' ').trim());

describe('the restore list', () => {
  it('tells of each lost original what is needed, where it was, who needs it, and which tape has it', async () => {
    const { screen, server } = await open();
    await screen.says('nl-restore-list', '5 originals to fetch or shoot again, 5.0 MB.');
    expect(server.bodies('restoreList')[0]).toEqual({
      ...{
        lost: { of: 'everything', id: null, folder: '', assetIds: [] },
        plan: null,
        isCut: false,
        handlesSeconds: 2,
      },
      ...{ offset: 0, limit: 200 },
    });
    expect(texts(screen, '[data-asset="1"] td')).toEqual([
      ...['A001', 'A001C001.mov', '01:00:00:00', '01:00:10:00', '250', 'Shelf 1/A001/A001C001.mov', 'Film, First'],
      'not known',
    ]);
    expect(texts(screen, '[data-asset="2"] td')[1]).toBe('A001C002.mov another file lies there now');
    expect(texts(screen, '[data-asset="2"] td')[7]).toBe('SW01 Equivalent, 98 % Fetch');
    expect(texts(screen, '[data-asset="3"] td')[7]).toContain('There is no tape SW01 on the shelf.');
    expect(texts(screen, '[data-asset="4"] td')[7]).toBe('SW01 Equivalent, 98 % waiting for its turn');
    expect(texts(screen, '[data-asset="5"] td').slice(0, 5)).toEqual(['–', 'wind.wav', 'all of it', '', '']);
  });

  it('says why it cannot be shown, and nothing of an archive where nothing is to be restored', async () => {
    const gone = await open('/upkeep/restore?of=project', (to) =>
      to.on(
        'restoreList',
        () => new Refusal(422, { code: 'refused', reason: 'Say of what the missing originals are.' }),
      ),
    );
    await gone.screen.says(
      '[role="alert"]',
      'The restore list cannot be shown. Say of what the missing originals are.',
    );
    expect(gone.screen.text('nl-restore-list')).not.toContain('in the project');
  });

  it('is of what one came from, and leads back there', async () => {
    const { screen, server } = await open('/upkeep/restore?of=project&id=4&named=Film&plan=9');
    await screen.says('nl-restore-list', 'Of what the last search did not find, or you rejected.');
    expect(server.bodies('restoreList')[0]).toMatchObject({ plan: 9, lost: { of: 'project', id: 4 } });
    await screen.click('a', 'Back to Upkeep');
    await until('the address', () => screen.address === '/upkeep?report=9&of=project&id=4&named=Film');
  });

  it('is of what is cut with handles, as one wants it, and is saved and printed so', async () => {
    const { screen, server } = await open('/upkeep/restore?of=bin&id=3&named=Lock', (to) =>
      to
        .on('restoreList', ({ isCut }) =>
          list({
            rows: [
              row(1, {
                ranges: isCut
                  ? [
                      { from: 0, to: 50 },
                      { from: 100, to: 150 },
                    ]
                  : [],
              }),
            ],
          }),
        )
        .on('takeRestoreList', () => ({ name: 'restore list.csv', type: 'text/csv', text: 'Reel\r\n' })),
    );
    await screen.says('nl-restore-list', 'Of what is in the bin “Lock”.');
    await screen.click('button', 'Only what is cut');
    await until('the ranges', () => texts(screen, '[data-asset="1"] .time')[1] === '01:00:02:0001:00:06:00');
    await screen.type('input[name="handles"]', '1.5');
    // What is no number of seconds is not asked for.
    await screen.type('input[name="handles"]', '900');
    await until('the list', () => server.bodies('restoreList').at(-1)?.handlesSeconds === 1.5);
    const [saved, print] = [jest.fn(), jest.fn()];
    Object.assign(URL, { createObjectURL: saved.mockReturnValue('blob:x'), revokeObjectURL: () => undefined });
    const click = jest.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(() => undefined);
    Object.assign(globalThis, { print });
    await screen.click('button', 'Save as CSV');
    await until('the file', () => saved.mock.calls.length === 1);
    expect(server.bodies('takeRestoreList')).toEqual([
      { lost: { of: 'bin', id: 3, folder: '', assetIds: [] }, plan: null, isCut: true, handlesSeconds: 1.5 },
    ]);
    await screen.click('button', 'Print');
    expect(print).toHaveBeenCalledTimes(1);
    expect(screen.one('.only-printed').textContent).toContain('Only what is cut, with handles of 1.5 seconds.');
    click.mockRestore();
  });

  it('has originals fetched, one or all, to a storage that the library may copy to, and shows how far each is', async () => {
    let jobs = [job(31, { kind: 'restore', state: 'queued' })];
    const { screen, server } = await open('/upkeep/restore', (to) =>
      to.on('jobs', () => ({ jobs })).on('restore', ({ assetIds }) => ({ jobs: assetIds.length })),
    );
    await screen.says('nl-restore-list', 'Tape shelf has 3 of them, as its catalogue of 36 files tells.');
    expect(texts(screen, 'select[name="target"] option')).toEqual(['Shelf 2']);
    await screen.click('[data-asset="3"] button', 'Fetch');
    await screen.says('nl-toasts', '1 original asked for. Each is mended by itself when it is here.');
    await screen.click('[data-test="fetch-all"]', 'Fetch 2 originals');
    await until('both', () => server.bodies('restore').length === 2);
    expect(server.bodies('restore')).toEqual([
      { storageId: 2, assetIds: [3] },
      { storageId: 2, assetIds: [2, 3] },
    ]);
    jobs = [job(31, { kind: 'restore', state: 'running', message: 'Putting tape SW01 into the drive' })];
    screen.dispatch(liveActions.jobs({ jobs: [] }));
    await screen.says('[data-asset="4"]', 'Putting tape SW01 into the drive');
    // What is back is no longer on the list.
    server.on('restoreList', () => list({ total: 4, rows: rows.filter(({ assetId }) => assetId !== 4) }));
    jobs = [job(31, { kind: 'restore' })];
    screen.dispatch(liveActions.jobs({ jobs: [] }));
    await until('it to be gone', () => screen.all('[data-asset="4"]').length === 0);
  });

  it('says why nothing was asked for, and what cannot be read of the catalogue', async () => {
    const { screen } = await open('/upkeep/restore', (to) =>
      to
        .on('restoreList', () =>
          list({ archive: { name: 'Tape shelf', files: 2, troubles: ['Row 7 has no “path”.'] } }),
        )
        .on('restore', () => new Refusal(422, { code: 'refused', reason: '“Shelf 2” is not mounted.' })),
    );
    await screen.says('nl-restore-list [role="alert"]', 'Row 7 has no “path”.');
    await screen.click('[data-test="fetch-all"]', 'Fetch');
    await screen.says('nl-toasts', 'Nothing was asked for. “Shelf 2” is not mounted.');
  });

  it('offers nothing to fetch where there is no archive, and no place to copy to', async () => {
    const { screen } = await open('/upkeep/restore', (to) => to.on('storages', () => ({ storages: [storage(1)] })));
    await screen.says('nl-restore-list', 'There is no storage that the library may copy to');
    expect(screen.all('[data-asset="2"] button')).toEqual([]);
  });

  it('is only for looking at where one may not keep', async () => {
    const { screen } = await open('/upkeep/restore', () => undefined, 'viewer');
    await screen.says('[data-asset="2"]', 'SW01');
    expect(texts(screen, 'nl-restore-list button')).toEqual([
      'Whole clips',
      'Only what is cut',
      'Print',
      'Save as CSV',
    ]);
  });

  it('is empty where nothing is lost, and says so where it cannot be shown', async () => {
    const { screen, server } = await open('/upkeep/restore', (to) =>
      to.on('restoreList', () => list({ total: 0, rows: [], archived: 0, bytes: 0 })),
    );
    await screen.says('nl-restore-list', 'Nothing has to be restored');
    expect(screen.text('nl-restore-list')).not.toContain('Tape shelf');
    server.on('restoreList', () => new Refusal(404, { code: 'not-found', what: 'search for missing files' }));
    await screen.click('button', 'Only what is cut');
    await screen.says('nl-restore-list', 'Nothing has to be restored');
  });

  it('has pages', async () => {
    const { screen, server } = await open('/upkeep/restore', (to) => to.on('restoreList', () => list({ total: 401 })));
    await until('pages', () => screen.all('ngb-pagination li').length > 0);
    await screen.click('ngb-pagination a', '3');
    await until('the third', () => server.bodies('restoreList').at(-1)?.offset === 400);
  });
});
