import type { Evidence } from '@larder/core/relink';
import type { RelinkMatch, RelinkProposal } from '@larder/contract';
import { job, status, storage } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';
import { liveActions } from '../shared/live.actions';

const evidence: readonly Evidence[] = [
  { kind: 'size', agreement: 'agrees', expected: '1000', found: '1000', bits: 8 },
  { kind: 'name', agreement: 'disagrees', expected: 'lock.mov', found: 'lock copy.mov', bits: -3 },
  { kind: 'reel', agreement: 'unknown', expected: 'A001', found: null, bits: 0 },
] as never;
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
const proposal = (assetId: number, matches: readonly RelinkMatch[]): RelinkProposal => ({
  assetId,
  name: `clip${assetId}.mov`,
  lastSeen: `Shelf 1/old/clip${assetId}.mov`,
  state: 'missing',
  matches,
});

const proposals = [
  proposal(1, [match('new/clip1.mov'), match('copy/clip1.mov', { likeness: 'equivalent', probability: 0.63 })]),
  proposal(2, [match('new/clip2.mov', { likeness: 'lookalike', probability: 0.044 })]),
  proposal(3, [match('new/clip3.mov', { blockedBy: ['duration', 'rate'] })]),
  proposal(4, [match('new/clip4.mov', { catalogued: { assetId: 44, untouched: true } })]),
  proposal(5, [match('new/clip5.mov', { catalogued: { assetId: 55, untouched: false } })]),
  proposal(6, []),
];

const rules = [
  { from: 'Shelf 1/old', to: 'Shelf 1/new', extension: null, before: '', behind: '', assetIds: [1, 2, 3, 4] },
  {
    ...{ from: 'Shelf 1/old', to: 'Shelf 1/mezzanines', extension: { from: 'mov', to: 'mxf' } },
    ...{ before: '', behind: '_v2', assetIds: [2, 5] },
  },
];

async function open() {
  const server = new FakeServer()
    .on('status', () => status({ byState: { online: 8, offline: 0, missing: 6, changed: 0 } }))
    .on('storages', () => ({
      storages: [
        storage(2, { state: 'offline' }),
        storage(3),
        storage(1, { counts: { online: 8, offline: 0, missing: 6, changed: 0 } }),
      ],
    }))
    .on('folders', () => ({ folders: ['new', 'new/a'] }))
    .on('jobs', () => ({ jobs: [job(9, { kind: 'find-missing' })] }))
    .on('findMissing', () => ({ job: job(9, { kind: 'find-missing', state: 'running', done: 1, total: 4 }) }))
    .on('relinkReport', () => ({ job: job(9, { kind: 'find-missing' }), looked: 4, proposals, rules }));
  const screen = await Screen.open('/upkeep', server);
  await screen.says('[data-test="missing"]', '6 originals missing.');
  return { server, screen };
}

const ticks = (screen: Screen) =>
  screen.all<HTMLInputElement>('.proposal input[type="checkbox"]').map((box) => [box.checked, box.disabled]);

describe('finding missing files', () => {
  it('offers the storages that are there, the one that misses most first, and looks where it is told', async () => {
    const { screen, server } = await open();
    await until('its storage', () => screen.one<HTMLSelectElement>('#look-storage').value === '1');
    expect(screen.all('#look-storage option').map((option) => option.textContent?.trim())).toEqual([
      'Shelf 3',
      'Shelf 1 (6 missing)',
    ]);
    await until('folders', () => screen.all('#look-folder option').length === 3);
    await screen.choose('#look-folder', 'new/a');
    await screen.click('button[type="submit"]', 'Look');
    await until('the address', () => screen.address === '/upkeep?report=9');
    expect(server.bodies('findMissing')).toEqual([{ storageId: 1, folder: 'new/a', assetIds: [] }]);
  });

  it('ticks what is sure, leaves the rest to a person, and rules out with the reason', async () => {
    const { screen } = await open();
    await screen.click('button[type="submit"]', 'Look');
    await screen.says('.result', '5 missing files with a candidate');
    expect(ticks(screen)).toEqual([
      [true, false],
      [false, false],
      [false, true],
      [true, false],
      [false, true],
    ]);
    const text = screen.text('.proposal');
    for (const words of [
      'Exact> 99.9 %',
      'Lookalike4.4 %',
      'Ruled out by its duration and rate.',
      'A scan catalogued this file as asset #44; it is folded in',
      'It is asset #55 already, and somebody has logged or used it.',
    ])
      expect(text).toContain(words);
    expect(screen.text('.lost')).toContain('old/clip6.mov');
  });

  it('tells what became of whole folders, ticks their files in one step, and shows them alone', async () => {
    const { screen, server } = await open();
    await screen.click('button[type="submit"]', 'Look');
    await until('rules', () => screen.all('[data-test="rule"]').length === 2);
    expect(screen.all('[data-test="rule"]').map(({ textContent }) => textContent?.replace(/\s+/g, ' ').trim())).toEqual(
      [
        'was inShelf 1/oldnow inShelf 1/newShow only these Tick 3 files',
        'was inShelf 1/oldnow inShelf 1/mezzanines.mov became .mxf, “_v2” was put behind themShow only these Tick 1 file',
      ],
    );
    // What is ruled out, or somebody's already, is not ticked with the rest.
    await screen.click('[data-test="rule"] button', 'Tick 3 files');
    await screen.says('.result', 'Mend 3 links');
    expect(screen.text('[data-test="rule"]')).toContain('Untick 3 files');
    await screen.click('[data-test="rule"] button', 'Show only these');
    await until('those alone', () => screen.all('.proposal').length === 3);
    await screen.click('[data-test="rule"] button', 'Show all');
    await until('all', () => screen.all('.proposal').length === 5);
    await screen.click('[data-test="rule"] button', 'Untick 3 files');
    await screen.says('.result', 'Mend 0 links');
    expect(server.bodies('mend')).toEqual([]);
  });

  it('shows the evidence, for and against, and the other candidates', async () => {
    const { screen } = await open();
    await screen.click('button[type="submit"]', 'Look');
    await screen.click('[data-asset="1"] button', 'Evidence');
    expect(screen.text('.evidence')).toMatch(
      /Size1.0 kB \(1000\).* agreesNamelock.movlock copy.mov disagreesReelA001– not known/,
    );
    screen.all<HTMLInputElement>('[data-asset="1"] input[type="radio"]')[1]?.dispatchEvent(new Event('change'));
    await screen.says('[data-asset="1"] .judgement', 'Equivalent');
    expect(screen.text('[data-asset="1"] .judgement')).toContain('63 %');
    await screen.click('[data-asset="1"] button', 'Evidence');
    expect(screen.all('.evidence')).toEqual([]);
  });

  it('mends what is ticked, each with the candidate chosen for it, and says what was folded', async () => {
    const { screen, server } = await open();
    let left = proposals;
    server.on('relinkReport', () => ({ job: job(9, { kind: 'find-missing' }), looked: 4, proposals: left, rules: [] }));
    server.on('mend', () => {
      left = [];
      return { revision: 2, group: 'g', changed: 2, folded: [44] };
    });
    await screen.click('button[type="submit"]', 'Look');
    await screen.says('.result', 'Mend 2 links');
    const second = screen.all<HTMLInputElement>('.proposal input[type="checkbox"]')[1];
    if (second) second.checked = true;
    second?.dispatchEvent(new Event('change'));
    await screen.click('.result button', 'Mend 3 links');
    await screen.says('nl-toasts', '3 links mended; 1 second entry of the same files folded in. No asset was doubled.');
    expect(server.bodies('mend')[0]?.links).toEqual([
      { assetId: 1, storageId: 1, path: 'new/clip1.mov' },
      { assetId: 2, storageId: 1, path: 'new/clip2.mov' },
      { assetId: 4, storageId: 1, path: 'new/clip4.mov' },
    ]);
    await screen.says('main', 'All mended');
  });

  it('a refused mend changes nothing and says why', async () => {
    const { screen, server } = await open();
    server.on('mend', () => new Refusal(422, { code: 'refused', reason: 'new/clip1.mov has gone meanwhile.' }));
    await screen.click('button[type="submit"]', 'Look');
    await screen.click('.result button', 'Mend 2 links');
    await screen.says('nl-toasts', 'Nothing was relinked. new/clip1.mov has gone meanwhile.');
    expect(screen.one<HTMLButtonElement>('.result button', 'Mend 2 links').disabled).toBe(false);
  });

  it('shows how far it is while it runs, and says how it ended', async () => {
    const { screen, server } = await open();
    let now = job(9, { kind: 'find-missing', state: 'running', done: 1200, total: 4000 });
    server.on('jobs', () => ({ jobs: [now] }));
    await screen.click('button[type="submit"]', 'Look');
    await screen.says('.running', '1,200 of 4,000 files');
    now = job(9, { kind: 'find-missing', state: 'failed', message: 'The storage went away.' });
    screen.dispatch(liveActions.jobs({ jobs: [now] }));
    await screen.says('[role="alert"]', 'The search failed: The storage went away.');
  });
});
