import { ROUTES, type Route } from '@larder/contract';
import { Client, TestLibrary } from './kit';

let library: TestLibrary;
beforeAll(async () => void (library = await TestLibrary.start(1)), 120_000);
afterAll(() => library.stop(), 60_000);

describe('who may do what', () => {
  it.each(Object.entries(ROUTES).filter(([, route]) => route.action !== 'open'))(
    '%s asks for a sign-in',
    async (_name, route: Route) => {
      const response = await new Client(library.base).raw(
        route.method,
        route.path.replace(':id', '1'),
        route.method === 'GET' ? undefined : {},
      );
      expect(response.status).toBe(401);
      expect(await response.json()).toMatchObject({ error: { code: 'not-signed-in' } });
    },
  );
  it.each(['/files/1/poster', '/files/1/original', '/files/string-outs/1.edl', '/api/events'])(
    '%s asks for a sign-in',
    async (path) => {
      expect((await fetch(library.base + path)).status).toBe(401);
    },
  );
  it('a viewer looks, an editor logs and cuts, a manager keeps storages', async () => {
    const [viewer, editor] = [await library.as('viewer'), await library.as('editor')];
    expect((await viewer.call('search', {})).total).toBe(0);
    expect(await viewer.refused('newLiveBin', { name: 'x', query: 'boat' })).toMatchObject({
      status: 403,
      error: { code: 'not-allowed' },
    });
    expect((await editor.call('newLiveBin', { name: 'x', query: 'boat' })).count).toBe(0);
    expect(await editor.refused('newStorage', { name: 'x', rootPath: '/srv' })).toMatchObject({ status: 403 });
  });
  it('refuses wrong passwords alike for known and unknown names, and stops guessing', async () => {
    const client = new Client(library.base);
    expect(await client.refused('signIn', { login: 'manager', password: 'no' })).toMatchObject({
      status: 401,
      error: { code: 'wrong-password' },
    });
    for (let n = 0; n < 10; n += 1)
      expect(await client.refused('signIn', { login: 'nobody', password: 'no' })).toMatchObject({
        error: { code: 'wrong-password' },
      });
    expect(await client.refused('signIn', { login: 'nobody', password: 'no' })).toMatchObject({
      status: 429,
      error: { code: 'too-many-tries' },
    });
  });
  it('keeps the session in a cookie that scripts and other sites cannot use, and ends it', async () => {
    const client = await library.as('editor');
    const again = await new Client(library.base).raw('POST', '/api/session', {
      login: 'editor',
      password: 'a test password',
    });
    expect(again.headers.get('set-cookie')).toMatch(/HttpOnly.*SameSite=Strict|SameSite=Strict.*HttpOnly/);
    await client.call('signOut', null);
    expect(await client.refused('status', null)).toMatchObject({ status: 401 });
  });
  it('does not let another site write', async () => {
    const client = await library.as('manager');
    const response = await client.raw(
      'POST',
      '/api/live-bins',
      { name: 'x', query: 'boat' },
      { 'sec-fetch-site': 'cross-site' },
    );
    expect(response.status).toBe(403);
  });
});

describe('what is asked is checked', () => {
  it('names the field that is wrong, and says how to mend it', async () => {
    const manager = await library.as('manager');
    const { status, error } = await manager.refused('newStorage', { name: '', rootPath: 'relative' });
    expect(status).toBe(422);
    expect(error).toMatchObject({ code: 'invalid' });
    expect(error.code === 'invalid' && error.issues.map((issue) => issue.path).sort()).toEqual(['name', 'rootPath']);
  });
  it('answers broken JSON, unknown addresses and impossible numbers plainly', async () => {
    const manager = await library.as('manager');
    const broken = await fetch(`${library.base}/api/search`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie: manager.cookie },
      body: '{',
    });
    expect(broken.status).toBe(422);
    expect((await manager.raw('GET', '/api/nothing')).status).toBe(404);
    expect((await manager.raw('GET', '/api/assets/abc/history')).status).toBe(404);
    expect((await manager.raw('GET', '/files/1/..%2F..%2Fsecrets.json')).status).toBe(404);
    expect((await manager.raw('GET', '/files/999999/poster')).status).toBe(404);
  });
  it('points at the character where a query goes wrong', async () => {
    const viewer = await library.as('viewer');
    expect(await viewer.refused('search', { query: 'boat colour:red' })).toMatchObject({
      status: 422,
      error: { code: 'query', issues: [{ code: 'unknown-field', at: 5, length: 6 }] },
    });
  });
  it('refuses storages that overlap or are the whole machine', async () => {
    const manager = await library.as('manager');
    await manager.call('newStorage', { name: 'one', rootPath: library.shelf('one') });
    expect(
      await manager.refused('newStorage', { name: 'two', rootPath: `${library.shelf('one')}/inner` }),
    ).toMatchObject({ error: { code: 'refused' } });
    expect(await manager.refused('newStorage', { name: 'all', rootPath: '/' })).toMatchObject({
      error: { code: 'refused' },
    });
    expect(await manager.refused('newStorage', { name: 'one', rootPath: library.shelf('other') })).toMatchObject({
      error: { code: 'refused' },
    });
  });
  it('sends a policy by which the browser asks only this server', async () => {
    const policy = (await fetch(library.base)).headers.get('content-security-policy');
    expect(policy).toContain("default-src 'self'");
    expect(policy).not.toContain('http');
  });
});
