import { job } from '../../../test/things';
import { FakeServer, Refusal, Screen, until } from '../../../test/screen';
import { liveActions } from '../shared/live.actions';

const all = [
  job(1, { state: 'running', kind: 'renditions', subject: 'lock.mov', done: 50, total: 100, unit: 'frames' }),
  job(2, { state: 'queued', kind: 'poster', subject: 'boat.mov', done: 0, total: null }),
  job(3, { state: 'failed', kind: 'renditions', subject: 'torn.mov', message: 'ffmpeg ended with an error.' }),
  job(4, { done: 1200 }),
];

async function open(role: 'manager' | 'viewer' = 'manager') {
  const server = new FakeServer()
    .on('jobs', () => ({ jobs: all }))
    .on('retryJob', (_body, id) => ({ job: job(id, { state: 'queued' }) }))
    .on('cancelJob', () => new Refusal(422, { code: 'refused', reason: 'It has ended already.' }));
  const screen = await Screen.open('/jobs', server, role);
  await screen.says('table', 'lock.mov');
  return { screen, server };
}

describe('jobs', () => {
  it('say what they work on, how far they are and what went wrong', async () => {
    const { screen } = await open();
    const rows = screen.all('tbody tr').map((row) => (row.textContent ?? '').replace(/\s+/g, ' '));
    expect(rows[0]).toMatch(/Proxy.*lock.mov.*Running.*50 of 100 frames/);
    expect(rows[1]).toMatch(/Poster.*boat.mov.*Waiting.*waiting for its turn/);
    expect(rows[2]).toMatch(/torn.mov.*Failed.*ffmpeg ended with an error\..*Try again/);
    expect(rows[3]).toMatch(/Scan.*Shelf.*Done.*1,200 files/);
  });

  it('are narrowed to a state, and all shown again by the same button', async () => {
    const { screen } = await open();
    await screen.click('.btn-group button', 'Failed');
    expect(screen.all('tbody tr').map((row) => row.dataset['job'])).toEqual(['3']);
    await screen.click('.btn-group button', 'Failed');
    expect(screen.all('tbody tr')).toHaveLength(4);
    await screen.click('.btn-group button', 'Cancelled');
    await screen.says('main', 'No such jobs');
  });

  it('are tried again and cancelled, and a refusal is said', async () => {
    const { screen, server } = await open();
    await screen.click('[data-job="3"] button', 'Try again');
    expect(server.asked.some(({ name, id }) => name === 'retryJob' && id === 3)).toBe(true);
    await screen.click('[data-job="1"] button', 'Cancel');
    await screen.says('nl-toasts', 'It has ended already.');
  });

  it('are paused, resumed, put first and put last', async () => {
    const { screen, server } = await open();
    server
      .on('jobs', () => ({ jobs: [...all, job(5, { state: 'paused', kind: 'ingest', message: 'Paused.' })] }))
      .on('pauseJob', (_body, id) => ({ job: job(id, { state: 'running' }) }))
      .on('resumeJob', (_body, id) => ({ job: job(id, { state: 'queued' }) }))
      .on('jobPriority', (_body, id) => ({ job: job(id, { state: 'queued' }) }));
    await screen.click('[data-job="1"] button', 'Pause');
    await screen.click('[data-job="2"] [aria-label="Do it next"]');
    await screen.click('[data-job="2"] [aria-label="Do it after everything else"]');
    await until('the paused one', () => screen.all('[data-job="5"]').length > 0);
    await screen.click('[data-job="5"] button', 'Resume');
    expect(
      server.asked
        .filter(({ name }) => !['jobs', 'session', 'fields', 'tags', 'markings', 'flags'].includes(name))
        .map(({ name, id, body }) => [name, id, body]),
    ).toEqual([
      ['pauseJob', 1, null],
      ['jobPriority', 2, { when: 'first' }],
      ['jobPriority', 2, { when: 'last' }],
      ['resumeJob', 5, null],
    ]);
  });

  it('say how quick they are and how long they will take, in frames or in bytes', async () => {
    const { screen, server } = await open();
    server.on('jobs', () => ({
      jobs: [
        job(1, { state: 'running', kind: 'renditions', done: 500, total: 1500, unit: 'frames', speed: 50 }),
        job(2, {
          state: 'running',
          kind: 'ingest',
          done: 2e9,
          total: 8e9,
          unit: 'bytes',
          speed: 1e7,
          worker: 'host:12',
        }),
        job(3, { state: 'done', kind: 'verify', done: 8e9, total: 8e9, unit: 'bytes' }),
      ],
    }));
    screen.dispatch(liveActions.jobs({ jobs: [] }));
    await screen.says('[data-job="1"]', '500 of 1,500 frames, 50/s, 20 s left');
    await screen.says('[data-job="2"]', '2.0 GB of 8.0 GB, 10.0 MB/s, 10 min left');
    expect(screen.text('[data-job="2"]')).toContain('host:12');
    expect(screen.text('[data-job="3"]')).toContain('8.0 GB');
  });

  it('an ingest tells what became of each thing, what failed first', async () => {
    const { screen, server } = await open();
    server
      .on('jobs', () => ({
        jobs: [job(7, { state: 'failed', kind: 'ingest', unit: 'bytes', message: 'Card went away.' })],
      }))
      .on('ingestReport', () => ({
        counts: { failed: 1, working: 0, skipped: 0, waiting: 2, done: 1 },
        items: [
          {
            path: 'a/bad.mov',
            state: 'failed',
            bytes: 10,
            assetId: null,
            toPath: null,
            xxh64: null,
            message: 'The disk is full.',
          },
          {
            path: 'a/good.mov',
            state: 'done',
            bytes: 2000,
            assetId: 4,
            toPath: 'in/good.mov',
            xxh64: '0ea03b369a463d9d',
            message: null,
          },
        ],
      }));
    screen.dispatch(liveActions.jobs({ jobs: [] }));
    await screen.click('[data-job="7"] button', 'What came in');
    await screen.says('.report', '1 failed');
    expect(screen.all('.report .tally').map((tally) => tally.textContent?.trim())).toEqual([
      '1 failed',
      '2 waiting',
      '1 in',
    ]);
    expect(screen.address).toContain('job=7');
    const lines = screen.all('.report li').map((line) => (line.textContent ?? '').replace(/\s+/g, ' ').trim());
    expect(lines[0]).toMatch(/^failed ?a\/bad\.mov ?10 B ?The disk is full\./);
    expect(lines[1]).toMatch(/^in ?a\/good\.mov ?2\.0 kB ?to in\/good\.mov ?0ea03b369a463d9d/);
    await screen.click('[data-job="7"] button', 'Resume');
    expect(server.asked.some(({ name, id }) => name === 'retryJob' && id === 7)).toBe(true);
  });

  it('move by themselves as the server tells', async () => {
    const { screen, server } = await open();
    server.on('jobs', () => ({
      jobs: [job(1, { state: 'done', kind: 'renditions', subject: 'lock.mov', done: 100 })],
    }));
    screen.dispatch(liveActions.jobs({ jobs: [] }));
    await until('the end', () => screen.all('tbody tr').length === 1);
    expect(screen.text('tbody')).toContain('Done');
  });

  it('a viewer is offered nothing', async () => {
    const { screen } = await open('viewer');
    expect(screen.all('tbody button')).toEqual([]);
  });
});
