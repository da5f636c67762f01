import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Plain, ROOT } from './home';
import { PREPARED } from './prepared';

interface Tally {
  readonly passed: number;
  readonly failed: number;
}

/** Where a part puts what it has to say. */
type Say = (text: string) => void;
type Part = (say: Say) => Promise<Tally>;

const run = (say: Say, file: string, args: readonly string[], cwd = ROOT): Promise<number> =>
  new Promise((resolve) => {
    const child = spawn(process.execPath, [join(ROOT, 'node_modules', file), ...args], {
      cwd,
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, FORCE_COLOR: '0' },
    });
    for (const stream of [child.stdout, child.stderr]) stream.setEncoding('utf8').on('data', say);
    child.once('close', (code) => resolve(code ?? 1));
    child.once('error', () => resolve(1));
  });

/** One check that passes or fails as a whole. */
async function check(say: Say, name: string, file: string, ...args: string[]): Promise<Tally> {
  const code = await run(say, file, args);
  say(`${code === 0 ? 'ok    ' : 'FAILED'} ${name}\n`);
  return code === 0 ? { passed: 1, failed: 0 } : { passed: 0, failed: 1 };
}

const sum = (tallies: readonly Tally[]): Tally =>
  tallies.reduce((all, each) => ({ passed: all.passed + each.passed, failed: all.failed + each.failed }), {
    passed: 0,
    failed: 0,
  });

/** A Jest project, counted by its own report. A suite that cannot even be loaded is a failure, and so is one without tests. */
async function jest(say: Say, folder: string): Promise<Tally> {
  const out = mkdtempSync(join(tmpdir(), 'larder-jest-'));
  const report = join(out, 'report.json');
  try {
    const code = await run(
      say,
      'jest/bin/jest.js',
      ['--config', 'jest.config.cjs', '--json', '--outputFile', report],
      join(ROOT, folder),
    );
    if (!existsSync(report)) return { passed: 0, failed: 1 };
    const said = JSON.parse(readFileSync(report, 'utf8')) as {
      numPassedTests: number;
      numFailedTests: number;
      numPendingTests: number;
      numRuntimeErrorTestSuites: number;
    };
    const failed = said.numFailedTests + said.numRuntimeErrorTestSuites + said.numPendingTests;
    return {
      passed: said.numPassedTests,
      failed: failed === 0 && (code !== 0 || said.numPassedTests === 0) ? 1 : failed,
    };
  } finally {
    rmSync(out, { recursive: true, force: true });
  }
}

const TSC = 'typescript/bin/tsc';
const LINT = ['eslint/bin/eslint.js', '--max-warnings', '0'] as const;
const INTERFACE = 'packages/web/**';
const NGC = '@angular/compiler-cli/bundles/src/bin/ngc.js';
/**
 * What runs side by side, and then one after the other. Checking types and linting use a core each, in two lanes that take about as
 * long; all else has the machine to itself: with more beside them, tests came to wait for each other, and nothing was done sooner.
 */
const COURSES = [
  [
    ['types', 'lint-web'],
    ['lint-rest', 'format'],
  ],
  [['core', 'contract', 'demo', 'server', 'web', 'command', 'e2e']],
] as const satisfies readonly (readonly (readonly string[])[])[];
type PartName = (typeof COURSES)[number][number][number];

const PARTS: Readonly<Record<PartName, Part>> = {
  // Three programs in which everything stands: a program for each package would check what they share again and again.
  types: async (say) => {
    const [node, dom, web] = ['tsconfig.node.json', 'tsconfig.dom.json', 'packages/web/tsconfig.spec.json'];
    return sum([
      await check(say, 'types of what knows no browser', TSC, '-p', node),
      await check(say, 'types of what drives one', TSC, '-p', dom),
      await check(say, 'types of the interface, templates and tests included', NGC, '-p', web, '--noEmit'),
    ]);
  },
  'lint-web': (say) => check(say, 'lint of the interface', ...LINT, INTERFACE),
  'lint-rest': (say) => check(say, 'lint of all else', ...LINT, '--ignore-pattern', INTERFACE, '.'),
  format: (say) => check(say, 'format', 'prettier/bin/prettier.cjs', '--check', '--log-level', 'warn', '.'),
  core: (say) => jest(say, 'packages/core'),
  contract: (say) => jest(say, 'packages/contract'),
  demo: (say) => jest(say, 'packages/demo'),
  server: (say) => jest(say, 'packages/server'),
  web: (say) => jest(say, 'packages/web'),
  command: (say) => jest(say, 'packages/command'),
  e2e: (say) => jest(say, 'e2e'),
};

/** Runs a part; what it says stands together when others run beside it, and comes at once when it is alone. */
async function tell(name: PartName, alone: boolean): Promise<Tally> {
  const began = Date.now();
  const held: string[] = [`\n== ${name}\n`];
  const say: Say = alone ? (text) => void process.stdout.write(text) : (text) => void held.push(text);
  if (alone) process.stdout.write(held.join(''));
  const tally = await PARTS[name](say);
  const seconds = ((Date.now() - began) / 1000).toFixed(0);
  say(`== ${name}: ${tally.passed} passed, ${tally.failed} failed, ${seconds} s\n`);
  if (!alone) process.stdout.write(held.join(''));
  return tally;
}

/** Runs the parts named, or all of them, and closes with one line over them all. */
export async function test(names: readonly string[]): Promise<void> {
  const unknown = names.filter((name) => !(name in PARTS));
  if (unknown.length > 0)
    throw new Plain(`There is no part “${unknown.join('”, “')}”. The parts are: ${Object.keys(PARTS).join(', ')}`);
  const prepared = mkdtempSync(join(tmpdir(), 'larder-prepared-'));
  process.env[PREPARED] = prepared;
  const tallies: Tally[] = [];
  for (const course of COURSES as readonly (readonly (readonly PartName[])[])[]) {
    const lanes = course
      .map((lane) => lane.filter((name) => names.length === 0 || names.includes(name)))
      .filter((lane) => lane.length > 0);
    if (lanes.length > 1) console.log(`\nSide by side: ${lanes.flat().join(', ')}; each is shown when it is done.`);
    await Promise.all(
      lanes.map(async (lane) => {
        for (const name of lane) tallies.push(await tell(name, lanes.length === 1));
      }),
    );
  }
  rmSync(prepared, { recursive: true, force: true });
  const { passed, failed } = sum(tallies);
  console.log(`\n${passed} passed, ${failed} failed`);
  process.exitCode = failed === 0 ? 0 : 1;
}
