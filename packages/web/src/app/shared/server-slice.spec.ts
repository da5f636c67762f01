import { status } from '../../../test/things';
import { FakeServer, Screen, until } from '../../../test/screen';
import { front } from '../front-page/state';
import { failureOf } from './api';
import { liveActions } from './live.actions';
import { sessionActions } from './session';
import { HttpErrorResponse } from '@angular/common/http';

const answers = () => new FakeServer().on('jobs', () => ({ jobs: [] })).on('status', () => status());
const asked = (server: FakeServer) => server.asked.filter(({ name }) => name === 'status').length;
const pause = () => new Promise((resolve) => setTimeout(resolve, 60));

describe('a slice that follows the server', () => {
  it('asks only when somebody wants it, then whenever what it is about changes', async () => {
    const server = answers();
    const screen = await Screen.open('/jobs', server);
    screen.changed('asset', 1, 2);
    await pause();
    expect(asked(server)).toBe(0);
    screen.dispatch(front.wanted());
    await until('the answer', () => front.select(screen.state()).value !== null);
    screen.changed('project', 1, 3);
    await pause();
    expect(asked(server)).toBe(1);
    screen.changed('storage', 1, 4);
    await until('a second question', () => asked(server) === 2);
  });

  it('asks at once at the first change and once more for all that came after, however many', async () => {
    const server = answers();
    const screen = await Screen.open('/jobs', server);
    screen.dispatch(front.wanted());
    await until('the answer', () => asked(server) === 1);
    for (let revision = 2; revision < 40; revision += 1) screen.changed('asset', 1, revision);
    await until('the last question', () => asked(server) === 3);
    await pause();
    expect(asked(server)).toBe(3);
  });

  it('keeps its value when a question fails, and says why', async () => {
    const server = answers();
    const screen = await Screen.open('/jobs', server);
    screen.dispatch(front.wanted());
    await until('the answer', () => front.select(screen.state()).value !== null);
    server.down = true;
    screen.dispatch(liveActions.connected({ revision: 9 }));
    await until('the failure', () => front.select(screen.state()).failure !== null);
    expect(front.select(screen.state()).value?.assets).toBe(14);
    server.down = false;
    screen.dispatch(front.wanted());
    await until('the failure to be gone', () => front.select(screen.state()).failure === null);
  });

  it('forgets everything when the person leaves', async () => {
    const server = answers();
    const screen = await Screen.open('/jobs', server);
    screen.dispatch(front.wanted());
    await until('the answer', () => front.select(screen.state()).value !== null);
    screen.dispatch(sessionActions.signedOut());
    expect(front.select(screen.state())).toEqual({ value: null, failure: null, wanted: false });
    screen.changed('asset', 1, 9);
    await pause();
    expect(asked(server)).toBe(1);
  });

  it('does not keep for the next person what comes after the one who asked has left', async () => {
    const server = answers();
    const screen = await Screen.open('/jobs', server);
    screen.dispatch(front.wanted());
    expect(asked(server)).toBe(1);
    screen.dispatch(sessionActions.signedOut());
    await pause();
    expect(front.select(screen.state()).value).toBe(null);
  });
});

describe('what went wrong', () => {
  const worded = (body: unknown) => failureOf(new HttpErrorResponse({ status: 422, error: body })).message;
  it('is worded from what the server says, and is “does not answer” for anything else', () => {
    expect(worded({ error: { code: 'too-many-tries', seconds: 30 } })).toBe('Too many tries. Wait 30 seconds.');
    for (const body of [null, '<html>', { error: {} }, {}])
      expect(worded(body)).toContain('The server does not answer.');
    expect(failureOf(new Error('x')).error).toEqual({ code: 'unreachable' });
  });
});
