import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { jobEnded, makeClip, scanned, TestLibrary, until, type Client } from './kit';

let library: TestLibrary;
let manager: Client;
beforeAll(async () => {
  library = await TestLibrary.start(1);
  manager = await library.as('manager');
}, 120_000);
afterAll(() => library.stop(), 60_000);

const proxyJob = async (name: string) =>
  (await manager.call('jobs', null)).jobs.find((job) => job.kind === 'renditions' && job.subject === name);

describe('the queue', () => {
  it('a killed worker’s job is taken up again and ends well', async () => {
    const shelf = library.shelf('long');
    // Long enough to be killed in the middle of.
    makeClip(join(shelf, 'long.mov'), { seconds: 20, size: '1280x720' });
    await scanned(manager, 'Long', shelf);
    const running = await until('the proxy to be under way', async () => {
      const job = await proxyJob('long.mov');
      return job?.state === 'running' && job.done > 0 && job;
    });
    expect(running).toMatchObject({ total: 500, unit: 'frames', attempts: 1 });
    process.kill(Number(running.worker?.split(':')[1]), 'SIGKILL');
    const ended = await jobEnded(manager, running.id);
    expect(ended).toMatchObject({ state: 'done', done: 500, attempts: 2 });
    expect(ended.worker).not.toBe(running.worker);
    expect(
      execFileSync('find', [join(library.folder, 'home/renditions'), '-name', '.*-proxy*'], { encoding: 'utf8' })
        .split('\n')
        .filter(Boolean).length,
    ).toBeLessThanOrEqual(1);
  });
  it('a running job can be cancelled and tried again; a failed one says why', async () => {
    const shelf = library.shelf('more');
    // Not left empty, or it would be taken for a mount point with nothing mounted.
    writeFileSync(join(shelf, 'readme.txt'), '');
    makeClip(join(shelf, 'more.mov'), { seconds: 20, size: '1280x720' });
    await scanned(manager, 'More', shelf);
    const running = await until('the proxy to be under way', async () => {
      const job = await proxyJob('more.mov');
      return job?.state === 'running' && job;
    });
    await manager.call('cancelJob', null, running.id);
    expect(await jobEnded(manager, running.id)).toMatchObject({ state: 'cancelled', message: 'Cancelled.' });
    execFileSync('rm', [join(shelf, 'more.mov')]);
    await manager.call('retryJob', null, running.id);
    expect(await jobEnded(manager, running.id)).toMatchObject({
      state: 'failed',
      message: expect.stringContaining('No such file') as unknown,
    });
  });
  it('open windows are told of jobs and changes as they happen', async () => {
    const viewer = await library.as('viewer');
    const heard = await viewer.listen((text) => text.includes('"type":"feed"') && text.includes('"type":"jobs"'));
    const [asset] = (await manager.call('search', {})).assets;
    await manager.call('edit', {
      assetIds: [asset?.id ?? 0],
      seenRevision: Number.MAX_SAFE_INTEGER,
      set: { title: 'Heard of' },
      addTags: [],
      removeTags: [],
    });
    const [storage] = (await manager.call('storages', null)).storages;
    await manager.call('scan', {}, storage?.id);
    const text = await heard.all;
    expect(text).toContain('"type":"hello"');
    expect(text).toContain(`"entity":"asset","id":${asset?.id}`);
  });
});
