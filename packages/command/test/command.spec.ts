import { execFile, execFileSync, spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';

const ROOT = join(__dirname, '../../..');
let home: string;
beforeAll(() => void (home = mkdtempSync(join(tmpdir(), 'larder-command-'))));
afterAll(() => rmSync(home, { recursive: true, force: true, maxRetries: 5 }));

const larder = (args: string[], env: Record<string, string> = {}) =>
  spawnSync(process.execPath, [join(ROOT, 'dist/larder.mjs'), ...args], {
    encoding: 'utf8',
    env: { ...process.env, LARDER_HOME: home, LARDER_PORT: '0', ...env },
  });

/** Starts a library and waits for the line that says where it is. */
async function started(): Promise<{ address: string; line: string; interrupt: () => Promise<number | null> }> {
  const child = spawn(process.execPath, [join(ROOT, 'dist/larder.mjs'), 'start'], {
    env: { ...process.env, LARDER_HOME: home, LARDER_PORT: '0' },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let said = '';
  const line = await new Promise<string>((resolve, reject) => {
    child.stdout.on('data', (text: Buffer) => {
      said += text.toString();
      if (said.includes('is ready')) resolve(said);
    });
    child.once('exit', () => reject(new Error(said)));
  });
  return {
    line,
    address: /http:\S+/.exec(line)?.[0] ?? '',
    interrupt: () => {
      const gone = new Promise<number | null>((resolve) => child.once('exit', resolve));
      child.kill('SIGINT');
      return gone;
    },
  };
}

describe('the one command', () => {
  it('lists what it can do, and refuses what it cannot', () => {
    expect(larder(['help']).stdout).toMatch(
      /demo[\s\S]*start[\s\S]*stop[\s\S]*status[\s\S]*test[\s\S]*bench[\s\S]*shots/,
    );
    const unknown = larder(['cook']);
    expect([unknown.status, unknown.stderr]).toEqual([1, 'larder: There is no command “cook”. See: ./larder help\n']);
    expect(larder(['status'], { LARDER_PORT: 'x' }).stderr).toContain('which is no port');
  });
  it('starts empty, says where and how, stops cleanly on Ctrl+C, and finds everything again', async () => {
    const first = await started();
    expect(first.line).toMatch(/sign in as manager, password \S+/);
    const password = /password (\S+)/.exec(first.line)?.[1] ?? '';
    const signIn = (address: string) =>
      fetch(`${address}/api/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ login: 'manager', password }),
      });
    const answer = await signIn(first.address);
    expect(answer.status).toBe(200);
    const cookie = answer.headers.get('set-cookie')?.split(';')[0] ?? '';
    await fetch(`${first.address}/api/live-bins`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie },
      body: JSON.stringify({ name: 'Kept', query: 'boat' }),
    });
    expect(larder(['status']).stdout).toContain(first.address);
    expect(larder(['start']).stderr).toContain('already runs on');
    expect(await first.interrupt()).toBe(0);
    expect(larder(['status']).stdout).toContain('Not running');
    // Nothing of it is left running.
    expect(execFileSync('ps', ['axo', 'args'], { encoding: 'utf8' })).not.toContain(home);

    const second = await started();
    expect((await signIn(second.address)).status).toBe(200);
    const bins = (await (await fetch(`${second.address}/api/live-bins`, { headers: { cookie } })).json()) as {
      bins: { name: string }[];
    };
    expect(bins.bins.map((bin) => bin.name)).toEqual(['Kept']);
    // Not waited for in one go: this process must be free to see its child end, or the child stays a zombie that seems alive.
    const stopped = await promisify(execFile)(process.execPath, [join(ROOT, 'dist/larder.mjs'), 'stop'], {
      env: { ...process.env, LARDER_HOME: home },
    });
    expect(stopped.stdout).toBe('Stopped.\n');
    expect(existsSync(join(home, 'run.json'))).toBe(false);
  });
  it('tells a busy port plainly, with the remedy, and leaves nothing behind', async () => {
    const squatter = createServer();
    const port = await new Promise<number>((resolve) =>
      squatter.listen(0, '127.0.0.1', () => resolve((squatter.address() as { port: number }).port)),
    );
    const result = larder(['start'], { LARDER_PORT: String(port) });
    squatter.close();
    expect([result.status, result.stderr]).toEqual([1, expect.stringContaining(`Port ${port} is taken`)]);
    expect(execFileSync('ps', ['axo', 'args'], { encoding: 'utf8' })).not.toContain(home);
  });
  it('tells a data folder that cannot be written, and a missing database, plainly', () => {
    writeFileSync(join(home, 'file'), '');
    expect(larder(['start'], { LARDER_HOME: join(home, 'file/inner') }).stderr).toContain('cannot be written');
    const missing = larder(['start'], { LARDER_HOME: join(home, 'fresh'), PATH: '/nowhere' });
    expect([missing.status, missing.stderr]).toEqual([
      1,
      expect.stringContaining('apt-get install mariadb-server-core'),
    ]);
  });
  it('a database that does not come up is said, with where to look', () => {
    const broken = join(home, 'broken');
    spawnSync('mkdir', ['-p', join(broken, 'database/mysql')]);
    writeFileSync(join(broken, 'database/ibdata1'), 'this is no database');
    const result = larder(['start'], { LARDER_HOME: broken });
    expect([result.status, result.stderr]).toEqual([1, expect.stringContaining('did not come up')]);
    expect(readFileSync(join(broken, 'database.log'), 'utf8')).not.toBe('');
  }, 120_000);
});
