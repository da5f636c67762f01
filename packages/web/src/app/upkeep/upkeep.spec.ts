import type { Evidence } from '@larder/core/relink';
import type { HealthFolder, RelinkItem, RelinkMatch, RelinkPlan } from '@larder/contract';
import { job, status, storage } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';
import { liveActions } from '../shared/live.actions';

const evidence: readonly Evidence[] = [
  { kind: 'size', agreement: 'agrees', expected: '1000', found: '1000' },
  { kind: 'name', agreement: 'disagrees', expected: 'lock.mov', found: 'lock copy.mov' },
  { kind: 'reel', agreement: 'unknown', expected: 'A001', found: null },
];
const match = (path: string, changes: Partial<RelinkMatch> = {}): RelinkMatch => ({
  storageId: 1,
  storage: 'Shelf 1',
  path,
  likeness: 'exact',
  probability: 0.9999,
  evidence,
  blockedBy: [],
  catalogued: null,
  ...changes,
});
const item = (assetId: number, matches: readonly RelinkMatch[], changes: Partial<RelinkItem> = {}): RelinkItem => ({
  assetId,
  name: `clip${assetId}.mov`,
  lastSeen: `Shelf 1/old/clip${assetId}.mov`,
  state: 'decide',
  matches,
  chosen: 0,
  trouble: null,
  verified: null,
  ...changes,
});

const items = [
  item(1, [match('new/clip1.mov'), match('copy/clip1.mov', { likeness: 'equivalent', probability: 0.63 })], {
    state: 'accepted',
  }),
  item(2, [match('new/clip2.mov', { likeness: 'lookalike', probability: 0.044 })]),
  item(3, [match('new/clip3.mov', { blockedBy: ['duration', 'rate'] })], { state: 'blocked' }),
  item(4, [match('new/clip4.mov', { catalogued: { assetId: 44, untouched: true } })], { state: 'accepted' }),
  item(5, [match('new/clip5.mov', { catalogued: { assetId: 55, untouched: false } })]),
  item(6, [], { state: 'unfound' }),
];
const rule = { from: 'Shelf 1/old', to: 'Shelf 1/new', extension: null, before: '', behind: '' };
const plan = (changes: Partial<RelinkPlan> = {}): RelinkPlan => ({
  job: job(9, { kind: 'find-missing' }),
  looked: 4,
  counts: { decide: 1, accepted: 2, rejected: 0, blocked: 2, unfound: 1, mended: 0, back: 0 },
  rules: [
    { ...rule, decide: 3, accepted: 1 },
    { ...rule, to: 'Shelf 1/mezzanines', extension: { from: 'mov', to: 'mxf' }, behind: '_v2', decide: 0, accepted: 2 },
    { ...rule, to: 'Shelf 1/all mended', decide: 0, accepted: 0 },
  ],
  mending: null,
  ...changes,
});

async function open(address = '/upkeep') {
  const server = new FakeServer()
    .on('status', () => status({ byState: { online: 8, offline: 0, missing: 6, changed: 0 } }))
    .on('storages', () => ({
      storages: [
        storage(2, { state: 'offline' }),
        storage(3),
        storage(1, { counts: { online: 8, offline: 0, missing: 6, changed: 0 } }),
      ],
    }))
    .on('health', () => ({ away: [], folders: [], more: 0 }))
    .on('folders', () => ({ folders: ['new', 'new/a'] }))
    .on('jobs', () => ({ jobs: [job(9, { kind: 'find-missing' })] }))
    .on('findMissing', () => ({ job: job(9, { kind: 'find-missing', state: 'running', done: 1, total: 4 }) }))
    .on('relinkPlan', () => plan())
    .on('relinkItems', ({ state }) => {
      const shown = items.filter((each) => state === null || each.state === state);
      return { total: shown.length, items: shown };
    });
  const screen = await Screen.open(address, server);
  await screen.says('[data-test="missing"]', '6 originals missing.');
  return { server, screen };
}

const shown = (screen: Screen) => screen.all('nl-relink-item').map((each) => each.getAttribute('data-asset'));

describe('finding missing files', () => {
  it('offers the storages that are there, the one that misses most first, and looks where it is told', async () => {
    const { screen, server } = await open();
    await until('its storage', () => screen.one<HTMLSelectElement>('#look-storage-0').value === '1');
    expect(screen.all('#look-storage-0 option').map((option) => option.textContent?.trim())).toEqual([
      'Shelf 3',
      'Shelf 1 (6 missing)',
    ]);
    await until('folders', () => screen.all('#look-folder-0 option').length === 3);
    await screen.choose('#look-folder-0', 'new/a');
    await screen.click('nl-look-form button', 'Look in another place too');
    await until('its storage', () => screen.one<HTMLSelectElement>('#look-storage-1').value === '3');
    await screen.click('nl-look-form button', 'What is looked at');
    await screen.type('#look-names', ' *.mxf ');
    await screen.type('#look-over', 'old*, , junk');
    await screen.click('button[type="submit"]', 'Look');
    await until('the address', () => screen.address === '/upkeep?report=9');
    expect(server.bodies('findMissing')).toEqual([
      {
        lost: { of: 'everything', id: null, folder: '', assetIds: [] },
        places: [
          { storageId: 1, folder: 'new/a', deep: true },
          { storageId: 3, folder: '', deep: true },
        ],
        ...{ passOver: ['old*', 'junk'], names: '*.mxf', acceptsExact: true, away: false },
      },
    ]);
    await screen.click('nl-look-form button', 'Pass over what is usual');
    await until('the usual', () => screen.one<HTMLInputElement>('#look-over').value.startsWith('*cache*, '));
  });

  it('has all storages looked over, and says how many', async () => {
    const { screen, server } = await open();
    server.on('checkPresence', () => ({ jobs: 2 }));
    await screen.click('.page-head button', 'Check presence');
    await screen.says('nl-toasts', '2 storages will be looked over; see Jobs. What is new there is left alone.');
    server.on('checkPresence', () => ({ jobs: 0 }));
    await screen.click('.page-head button', 'Check presence');
    await screen.says('nl-toasts', 'No storage is there to be looked at.');
    server.on('checkPresence', () => new Refusal(422, { code: 'refused', reason: 'Not now.' }));
    await screen.click('.page-head button', 'Check presence');
    await screen.says('nl-toasts', 'Not now.');
  });

  it('shows those folders that explain most, and all when asked', async () => {
    const { screen, server } = await open('/upkeep?report=9');
    const rules = Array.from({ length: 6 }, (_unused, n) => ({
      ...rule,
      to: `Shelf 1/to ${n}`,
      decide: 1,
      accepted: 0,
    }));
    server.on('relinkPlan', () => plan({ rules }));
    screen.changed('asset', 1, 2);
    await until('four', () => screen.all('[data-test="rule"]').length === 4);
    await screen.click('.rules button', '2 more folders');
    expect(screen.all('[data-test="rule"]')).toHaveLength(6);
    await screen.click('.rules button', 'Only those that explain most');
    expect(screen.all('[data-test="rule"]')).toHaveLength(4);
  });

  it('says so where no storage is there to look in', async () => {
    const { screen, server } = await open();
    server.on('storages', () => ({ storages: [storage(2, { state: 'offline' })] }));
    screen.changed('storage', 2, 2);
    await screen.says('.nowhere', 'No storage is there to look for files in. Mount or add one in Storage.');
    expect(screen.all('nl-look-form')).toEqual([]);
  });

  it('looks for those that it was sent to look for', async () => {
    const { screen, server } = await open('/upkeep?of=bin&id=3&named=Lock');
    await screen.says('nl-look-form', 'Of what is in the bin “Lock”.');
    await screen.click('button[type="submit"]', 'Look');
    await until('the address', () => screen.address === '/upkeep?of=bin&id=3&named=Lock&report=9');
    expect(server.bodies('findMissing')[0]?.lost).toEqual({ of: 'bin', id: 3, folder: '', assetIds: [] });
  });

  it('looks for what is on storages that are away where somebody says so, or was sent to', async () => {
    const { screen, server } = await open();
    await until('the box', () => screen.all('input[name="away"]').length > 0);
    const box = screen.one<HTMLInputElement>('input[name="away"]');
    expect([box.checked, box.closest('label')?.title]).toEqual([false, 'Not mounted: Shelf 2']);
    await screen.click('input[name="away"]');
    await screen.click('button[type="submit"]', 'Look');
    await until('the search', () => server.bodies('findMissing').length === 1);
    expect(server.bodies('findMissing')[0]).toMatchObject({ away: true });
  });

  it('takes for said that what is away is meant, on the way from its storage', async () => {
    const { screen, server } = await open('/upkeep?of=storage&id=2&named=Shelf 2');
    await until('the box', () => screen.all<HTMLInputElement>('input[name="away"]')[0]?.checked === true);
    await screen.click('button[type="submit"]', 'Look');
    await until('the search', () => server.bodies('findMissing').length === 1);
    expect(server.bodies('findMissing')[0]).toMatchObject({ away: true, lost: { of: 'storage', id: 2 } });
  });

  it('looks for chosen assets, whatever else an address says', async () => {
    const { screen, server } = await open('/upkeep?of=assets&assets=4,x,-2,5');
    await screen.says('nl-look-form', 'Of 2 assets that were chosen.');
    await screen.click('button[type="submit"]', 'Look');
    await until('the search', () => server.bodies('findMissing').length === 1);
    expect(server.bodies('findMissing')[0]?.lost).toMatchObject({ of: 'assets', assetIds: [4, 5] });
  });

  it('shows how far it is while it runs, and says how it ended', async () => {
    const { screen, server } = await open();
    let now = job(9, { kind: 'find-missing', state: 'running', done: 1200, total: 4000 });
    server.on('jobs', () => ({ jobs: [now] }));
    await screen.click('button[type="submit"]', 'Look');
    await screen.says('.running', '1,200 of 4,000 files');
    // What the catalogue has is shown meanwhile, and decided later.
    server.on('relinkPlan', () => plan({ job: now }));
    now = job(9, { kind: 'find-missing', state: 'running', message: '12 files found so far' });
    screen.dispatch(liveActions.jobs({ jobs: [now] }));
    await screen.says('nl-relink-plan', 'what the catalogue says of them');
    await until('all', () => shown(screen).length === 6);
    const offered = screen.all('nl-relink-item button, .result button, [data-test="rule"] button');
    expect(offered.filter(({ textContent }) => /Accept|Reject|Mend|Point/.test(textContent ?? ''))).toEqual([]);
    now = job(9, { kind: 'find-missing', state: 'failed', message: 'The storage went away.' });
    screen.dispatch(liveActions.jobs({ jobs: [now] }));
    await screen.says('[role="alert"]', 'The search failed: The storage went away.');
    expect(screen.all('nl-relink-plan')).toEqual([]);
  });
});

describe('the health of the library', () => {
  const folder = (at: number, changes: Partial<HealthFolder> = {}): HealthFolder => ({
    ...{ storageId: 1, storage: 'Shelf 1', folder: `day/A00${at}`, online: 2, missing: 3, changed: 0, sinceMs: 0 },
    ...{ uses: [], moreUses: 0 },
    ...changes,
  });
  const lines = (screen: Screen) =>
    screen.all('[data-test="lost-folder"]').map(({ textContent }) => textContent?.replace(/\s+/g, ' ').trim());

  it('tells where originals are lost, since when, and what depends on them, with the way to find them', async () => {
    const uses = [
      { kind: 'string-out' as const, id: 4, name: 'One, First cut' },
      { kind: 'bin' as const, id: 5, name: 'Day/Lock' },
      { kind: 'bin' as const, id: 6, name: 'Dawn' },
      { kind: 'bin' as const, id: 7, name: 'Dusk' },
    ];
    const { screen, server } = await open();
    server.on('health', () => ({
      away: [],
      folders: [
        folder(1, { uses, moreUses: 2 }),
        folder(2, { folder: '', changed: 1 }),
        ...[3, 4, 5, 6].map((at) => folder(at)),
      ],
      more: 1,
    }));
    screen.dispatch(liveActions.changed({ revision: 8, entities: ['asset'] } as never));
    await until('the folders', () => lines(screen).length === 5);
    expect(lines(screen)[0]).toMatch(
      /^Shelf 1\/day\/A0013051 Jan 1970, 00:00One, First cutDay\/LockDawnand 3 moreFind$/,
    );
    expect(lines(screen)[1]).toMatch(/^Shelf 1316.*no bin, no string-outFind$/);
    const links = screen.all('[data-test="lost-folder"] a').map((link) => link.getAttribute('href'));
    expect(links.slice(0, 5)).toEqual([
      '/string-outs/4',
      '/bins?in=Day%2FLock',
      '/bins?in=Dawn',
      '/upkeep?of=storage&id=1&named=Shelf%201&folder=day%2FA001',
      '/upkeep?of=storage&id=1&named=Shelf%201',
    ]);
    await screen.click('nl-health button', '2 more folders');
    await until('all', () => lines(screen).length === 6);
    expect(screen.text('nl-health')).toContain('and 1 more folder that are not shown');
  });

  it('tells which storages are away, and what depends on them', async () => {
    const { screen, server } = await open();
    const uses = [{ kind: 'string-out' as const, id: 4, name: 'Water, Cut' }];
    server.on('health', () => ({
      ...{ folders: [], more: 0 },
      away: [
        { storageId: 2, storage: 'Archive drive', originals: 1200, sinceMs: 0, uses, moreUses: 3 },
        { storageId: 3, storage: 'Card', originals: 1, sinceMs: 0, uses: [], moreUses: 0 },
      ],
    }));
    screen.changed('storage', 2, 2);
    await screen.says('[data-test="away"]', 'Archive drive');
    const rows = screen.all('[data-test="away"] tr').map((row) => row.textContent?.replace(/\s+/g, ' ').trim());
    expect(rows[0]).toMatch(/1,200 originals\s*since .*Water, Cut\s*and 3 more\s*Find elsewhere$/);
    expect(rows[1]).toMatch(/1 original\s*since .*no bin, no string-out\s*Find elsewhere$/);
    expect(screen.one('[data-test="away"] a').getAttribute('href')).toBe('/string-outs/4');
  });

  it('says nothing where nothing is lost, and so where it cannot be told', async () => {
    const { screen, server } = await open();
    expect(screen.text('nl-health')).toBe('');
    server.on('health', () => new Refusal(500, { code: 'internal' } as never));
    screen.dispatch(liveActions.changed({ revision: 8, entities: ['asset'] } as never));
    await screen.says('nl-health', 'Where originals are lost cannot be shown.');
  });
});

describe('a plan', () => {
  it('says what is to be decided, what is taken, and what is ruled out with the reason', async () => {
    const { screen } = await open('/upkeep?report=9');
    await screen.says('.result', '6 originals to find');
    await until('all', () => shown(screen).length === 6);
    expect(screen.all('nl-relink-item .state').map((each) => each.textContent?.trim())).toEqual([
      ...['Accepted', 'To decide', 'Ruled out', 'Accepted', 'To decide', 'Not found'],
    ]);
    const text = screen
      .all('nl-relink-item')
      .map((each) => each.textContent)
      .join(' ');
    for (const words of [
      /Exact\s*> 99.9 %/,
      /Lookalike\s*4.4 %/,
      /Ruled out: what is cut or marked in the original has no place in it, and another rate\./,
      /A scan catalogued this file as asset #44; it is merged into this one/,
      /is asset #55 already, and somebody has logged or used it\. Accepted by itself, it is merged into this one/,
      /old\/clip6.mov/,
    ])
      expect(text).toMatch(words);
    // What is ruled out is not to be accepted.
    expect(screen.all('[data-asset="3"] button').map((each) => each.textContent?.trim())).toEqual([
      'Evidence',
      'Point at it …',
    ]);
  });

  it('says of what begins and ends as others do that somebody has to look', async () => {
    const { screen, server } = await open('/upkeep?report=9');
    const same = (kind: 'fingerprint' | 'size'): Evidence => ({ kind, agreement: 'agrees', expected: '1', found: '1' });
    const other = (kind: 'duration'): Evidence => ({ kind, agreement: 'disagrees', expected: '1', found: '2' });
    const alike = [same('fingerprint'), same('size')];
    const some = [
      item(1, [match('a.wav', { likeness: 'lookalike', evidence: alike })]),
      item(2, [match('b.wav', { likeness: 'lookalike', evidence: [...alike, other('duration')] })]),
      item(3, [match('c.wav', { evidence: alike })]),
      item(4, [match('d.wav', { likeness: 'equivalent', evidence: [same('size')] })]),
    ];
    server.on('relinkItems', () => ({ total: some.length, items: some }));
    screen.changed('asset', 1, 2);
    await until('them', () => shown(screen).length === 4);
    const told = screen.all('nl-relink-item').filter((each) => each.textContent?.includes('look which it is'));
    expect(told.map((each) => each.getAttribute('data-asset'))).toEqual(['1']);
  });

  it('is decided one by one, by state, and by what became of a whole folder', async () => {
    const { screen, server } = await open('/upkeep?report=9');
    server.on('decideRelink', () => plan());
    await until('rules', () => screen.all('[data-test="rule"]').length === 2);
    expect(screen.all('[data-test="rule"]').map(({ textContent }) => textContent?.replace(/\s+/g, ' ').trim())).toEqual(
      [
        'was in Shelf 1/oldnow in Shelf 1/newShow only these Accept 3 files',
        'was in Shelf 1/oldnow in Shelf 1/mezzanines.mov became .mxf, “_v2” was put behind themShow only these 2 files accepted',
      ],
    );
    await screen.click('[data-test="rule"] button', 'Accept 3 files');
    await screen.click('[data-asset="2"] button', 'Accept');
    await screen.click('[data-asset="1"] button', 'Leave open');
    await screen.click('[data-asset="1"] button', 'Reject');
    await screen.click('[data-state="accepted"]', 'Accepted');
    await until('those alone', () => shown(screen).length === 2);
    await screen.click('.tabs button', 'Leave all open again');
    const none = { assetIds: [], rule: null, state: null, chosen: null };
    await until('all decided', () => server.bodies('decideRelink').length === 5);
    expect(server.bodies('decideRelink')).toEqual([
      { ...none, decision: 'accepted', rule: 0 },
      { ...none, decision: 'accepted', assetIds: [2] },
      { ...none, decision: 'open', assetIds: [1] },
      { ...none, decision: 'rejected', assetIds: [1] },
      { ...none, decision: 'open', state: 'accepted' },
    ]);
    await screen.click('.tabs button', 'All');
    await screen.click('[data-test="rule"] button', 'Show only these');
    await until('those of the rule', () => server.bodies('relinkItems').at(-1)?.rule === 0);
    expect(server.bodies('relinkItems').at(-1)).toMatchObject({ state: null, offset: 0 });
  });

  it('shows the evidence, for and against, and the other candidates', async () => {
    const { screen, server } = await open('/upkeep?report=9');
    server.on('decideRelink', () => plan());
    await until('all', () => shown(screen).length === 6);
    await screen.click('[data-asset="1"] button', 'Evidence');
    expect(screen.text('.evidence')).toMatch(
      /Size1.0 kB \(1000\).* agreesNamelock.movlock copy.mov disagreesReelA001– not known/,
    );
    screen.all<HTMLInputElement>('[data-asset="1"] input[type="radio"]')[1]?.dispatchEvent(new Event('change'));
    await until('the choice', () => server.bodies('decideRelink').length === 1);
    expect(server.bodies('decideRelink')[0]).toMatchObject({ decision: 'open', assetIds: [1], chosen: 1 });
    await screen.click('[data-asset="1"] button', 'Evidence');
    expect(screen.all('.evidence')).toEqual([]);
  });

  it('of many files is looked through page by page', async () => {
    const { screen, server } = await open('/upkeep?report=9');
    server.on('relinkItems', ({ offset, limit }) => ({
      total: 3000,
      items: Array.from({ length: limit }, (_unused, n) => item(offset + n, [])),
    }));
    await screen.click('[data-state="decide"]', 'To decide');
    await until('a page', () => shown(screen).length === 50 && shown(screen)[0] === '0');
    await screen.click('ngb-pagination a', '60');
    await until('the last', () => shown(screen)[0] === '2950');
    // Fewer of another state begin at their first page.
    await screen.click('[data-state="unfound"]', 'Not found');
    await until('the first', () => shown(screen)[0] === '0');
  });

  it('is carried out as a job, and undone from the notice', async () => {
    const { screen, server } = await open('/upkeep?report=9');
    const mending = job(12, { kind: 'mend', state: 'running', done: 1, total: 2, unit: 'files' });
    server.on('mend', () => ({ job: mending }));
    server.on('jobs', () => ({ jobs: [mending, job(9, { kind: 'find-missing' })] }));
    await screen.click('.result button', 'Mend 2 links');
    await screen.says('.running', 'Opening each file');
    const done = { ...mending, state: 'done' as const, done: 2 };
    server.on('relinkPlan', () => plan({ mending: { job: done, group: 'g7', folded: 1 } }));
    server.on('undo', () => ({
      ...{ revision: 3, group: 'h', changed: 2, of: 'g7', action: 'relink', fields: ['path'], assets: 2, atMs: 0 },
    }));
    server.on('jobs', () => ({ jobs: [done, job(9, { kind: 'find-missing' })] }));
    screen.dispatch(liveActions.jobs({ jobs: [done] }));
    await screen.says('nl-toasts', '2 links mended; 1 second entry of the same files folded in. No asset was doubled.');
    await screen.click('nl-toasts button', 'Undo');
    await screen.says('nl-toasts', 'Undone: links of 2 assets');
    expect(server.bodies('undo')).toEqual([{ group: 'g7' }]);
  });

  it('that cannot be carried out says why, and what is to be decided anew', async () => {
    const { screen, server } = await open('/upkeep?report=9');
    server.on('mend', () => new Refusal(422, { code: 'refused', reason: 'This is being mended already.' }));
    await screen.click('.result button', 'Mend 2 links');
    await screen.says('nl-toasts', 'Nothing was relinked. This is being mended already.');
    const failed = job(12, { kind: 'mend', state: 'failed', message: 'Nothing was relinked: 1 of 2 is gone.' });
    server.on('relinkPlan', () => plan({ mending: { job: failed, group: null, folded: 0 } }));
    server.on('relinkItems', () => ({
      total: 1,
      items: [item(1, [match('new/clip1.mov')], { trouble: 'clip1.mov is not in Shelf 1 any more.' })],
    }));
    screen.dispatch(liveActions.changed({ revision: 8, entities: ['asset'] } as never));
    await screen.says('[role="alert"]', 'Nothing was relinked: 1 of 2 is gone.');
    await screen.says('nl-relink-item', 'Not mended: clip1.mov is not in Shelf 1 any more.');
  });

  it('says of what is mended how the file was found, and of nothing missing that it is so', async () => {
    const { screen, server } = await open('/upkeep?report=9');
    server.on('relinkItems', () => ({
      total: 1,
      items: [item(1, [match('new/clip1.mov')], { state: 'mended', verified: evidence })],
    }));
    await screen.click('[data-state="accepted"]', 'Accepted');
    await screen.says('nl-relink-item', 'It opens; the same size; another name.');
    expect(screen.all('nl-relink-item button').map((each) => each.textContent?.trim())).toEqual(['Evidence']);
    const counts = { decide: 0, accepted: 0, rejected: 0, blocked: 0, unfound: 0, mended: 0, back: 0 };
    server.on('relinkPlan', () => plan({ counts }));
    screen.dispatch(liveActions.changed({ revision: 9, entities: ['asset'] } as never));
    await screen.says('main', 'Nothing of these is missing');
  });

  it('is made anew from a file that one points at', async () => {
    const { screen, server } = await open('/upkeep?report=9');
    server.on(
      'browse',
      ({ path }) =>
        ({
          ...{ path: path ?? '', mounted: true, folders: [], total: 2, offset: 0, others: 0, unnameable: 0 },
          ...({ scan: null, counts: {} } as never as object),
          rows: [
            { path: `${path}/one.mov`, name: 'one.mov', bytes: 2000, state: 'new' },
            { path: `${path}/gone.mov`, name: 'gone.mov', bytes: 2000, state: 'missing' },
          ] as never,
        }) as never,
    );
    server.on('pointAt', () => ({ job: job(10, { kind: 'find-missing', state: 'running' }) }));
    await until('all', () => shown(screen).length === 6);
    await screen.click('[data-asset="1"] button', 'Point at it …');
    await until('the files', () => screen.all('#point-file option').length === 1);
    expect(screen.text('.modal-content')).toContain('Last seen at Shelf 1/old/clip1.mov');
    await screen.choose('#point-file', 'new/one.mov');
    await screen.click('.modal-content button', 'This is it');
    await until('the plan', () => screen.address === '/upkeep?report=10');
    expect(server.bodies('pointAt')).toEqual([{ assetId: 1, storageId: 1, path: 'new/one.mov' }]);
  });
});
