import { ensurePerson, POCKETSPHINX, RemoteRecogniserStandIn } from '@larder/server';
import { bench, BENCHES } from './bench';
import { DEMO_PASSWORD, demoScript, startDemo } from './demo';
import { Home, isAlive, Plain, runningOn } from './home';
import { DEFAULT_PORT, HOST, Library, RECOGNISER_FILE } from './library';

const HELP = `Neat Larder: a shared library of footage and sound.

  ./larder demo          start with the demo library; the first time it is made
  ./larder start         start with an empty library, or with what is in it
  ./larder stop          stop the library that runs on this data folder
  ./larder status        tell whether it runs, and where
  ./larder test [PART…]  run all tests, or: types lint core demo server web command e2e
  ./larder bench NAME [PART…]  measure; NAME is one of: ${BENCHES.join(', ')}
  ./larder stand-in [PORT]  a recogniser to be asked over the network, to try that with
  ./larder shots         take the pictures in docs/screenshots anew
  ./larder help          this page

  LARDER_HOME   the data folder (now ${new Home().path})
  LARDER_PORT   the port (now ${port()})`;

function port(): number {
  const text = process.env['LARDER_PORT'] ?? String(DEFAULT_PORT);
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0 || value > 65_535)
    throw new Plain(`LARDER_PORT is “${text}”, which is no port. Use a number from 1 to 65535.`);
  return value;
}

/** Stays until the library is told to stop, by Ctrl+C or by \`./larder stop\`. */
function untilStopped(library: Library): Promise<void> {
  return new Promise((resolve) => {
    let stopping = false;
    const stop = (): void => {
      if (stopping) return;
      stopping = true;
      console.log('\nStopping …');
      void library.stop().then(() => {
        console.log('Stopped. Everything is kept.');
        resolve();
      });
    };
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, stop);
  });
}

async function demo(): Promise<void> {
  // Ctrl+C before there is a library to stop ends the process; what was made so far is kept and found again.
  const library = await startDemo(new Home(), port());
  const names = demoScript().people.map((person) => person.login);
  console.log(
    `Neat Larder is ready: http://${HOST}:${library.port} — sign in as ${names.slice(0, -1).join(', ')} or ${names.at(-1) ?? ''}, password ${DEMO_PASSWORD}`,
  );
  await untilStopped(library);
}

async function start(): Promise<void> {
  const home = new Home();
  const library = await Library.open({ home, port: port(), demoPassword: null });
  const { managerPassword } = home.secrets();
  await library.withModels(() => ensurePerson('manager', 'Library manager', 'manager', managerPassword));
  library.startWorkers();
  await library.startServer();
  console.log(`Neat Larder is ready: http://${HOST}:${library.port} — sign in as manager, password ${managerPassword}`);
  await untilStopped(library);
}

async function stop(): Promise<void> {
  const home = new Home();
  const running = runningOn(home);
  if (!running) return console.log(`Nothing runs on ${home.path}.`);
  process.kill(running.pid, 'SIGTERM');
  for (let waited = 0; isAlive(running.pid); waited += 100) {
    if (waited > 60_000) throw new Plain(`Process ${running.pid} does not end. Stop it with: kill -9 ${running.pid}`);
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  console.log('Stopped.');
}

/** A recogniser behind a queue, on loopback, slow and now and then too busy, until it is stopped. */
async function standIn(wanted = '4390'): Promise<void> {
  const to = Number(wanted);
  if (!Number.isInteger(to) || to < 0 || to > 65_535)
    throw new Plain(`“${wanted}” is no port. Use a number from 1 to 65535.`);
  const recogniser = await RemoteRecogniserStandIn.start({
    ...{ by: POCKETSPHINX, host: HOST, port: to },
    ...{ delayMs: 1500, busyEvery: 7, failEvery: 11 },
  }).catch((error: NodeJS.ErrnoException) => {
    throw error.code === 'EADDRINUSE'
      ? new Plain(`Port ${to} is taken by another program. Choose another: ./larder stand-in ${to + 1}`)
      : error;
  });
  console.log(
    `A recogniser listens at ${recogniser.url}. To use it, write into ${new Home().at(RECOGNISER_FILE)}, then start the library anew:
  {"name": "Stand-in", "language": "en-US", "url": "${recogniser.url}"}`,
  );
  await new Promise<void>((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.once(signal, () => resolve());
  });
  await recogniser.stop();
}

function status(): void {
  const home = new Home();
  const running = runningOn(home);
  console.log(
    running
      ? `Running on http://${HOST}:${running.port}, process ${running.pid}, data in ${home.path}`
      : `Not running; data in ${home.path}`,
  );
}

const COMMANDS: Readonly<Record<string, (rest: string[]) => Promise<void> | void>> = {
  demo,
  start,
  stop,
  status,
  test: async (parts) => (await import('./test')).test(parts),
  bench: ([name, ...parts]) => bench(name, parts),
  'stand-in': ([at]) => standIn(at),
  shots: async () => (await import('./shots')).shots(),
  help: () => console.log(HELP),
};

const [name = 'help', ...rest] = process.argv.slice(2);
try {
  const command = COMMANDS[name.replace(/^(-h|--help)$/, 'help')];
  if (!command) throw new Plain(`There is no command “${name}”. See: ./larder help`);
  await command(rest);
  process.exit(process.exitCode ?? 0);
} catch (error) {
  if (error instanceof Plain) console.error(`larder: ${error.message}`);
  else console.error(error);
  process.exit(1);
}
