import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Plain, ROOT } from './home';

interface Tally {
  readonly passed: number;
  readonly failed: number;
}

type Part = () => Promise<Tally>;

const run = (file: string, args: readonly string[], cwd = ROOT): Promise<number> =>
  new Promise((resolve) => {
    const child = spawn(process.execPath, [join(ROOT, 'node_modules', file), ...args], {
      cwd,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, FORCE_COLOR: '0' },
    });
    child.once('close', (code) => resolve(code ?? 1));
    child.once('error', () => resolve(1));
  });

/** One check that passes or fails as a whole. */
async function check(name: string, file: string, ...args: string[]): Promise<Tally> {
  const code = await run(file, args);
  console.log(`${code === 0 ? 'ok    ' : 'FAILED'} ${name}`);
  return code === 0 ? { passed: 1, failed: 0 } : { passed: 0, failed: 1 };
}

const sum = (tallies: readonly Tally[]): Tally =>
  tallies.reduce((all, each) => ({ passed: all.passed + each.passed, failed: all.failed + each.failed }), {
    passed: 0,
    failed: 0,
  });

/** A Jest project, counted by its own report. A suite that cannot even be loaded is a failure, and so is one without tests. */
async function jest(folder: string): Promise<Tally> {
  const out = mkdtempSync(join(tmpdir(), 'larder-jest-'));
  const report = join(out, 'report.json');
  try {
    const code = await run(
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
const PARTS: Readonly<Record<string, Part>> = {
  types: async () => {
    const tallies: Tally[] = [];
    for (const folder of [
      'packages/core',
      'packages/contract',
      'packages/demo',
      'packages/server',
      'packages/command',
      'e2e',
      'bench',
    ])
      tallies.push(await check(`types of ${folder}`, TSC, '-p', folder));
    tallies.push(
      await check(
        'types of packages/web, templates included',
        '@angular/compiler-cli/bundles/src/bin/ngc.js',
        '-p',
        'packages/web/tsconfig.json',
        '--noEmit',
      ),
    );
    tallies.push(
      await check('types of the tests of packages/web', TSC, '-p', 'packages/web/tsconfig.spec.json', '--noEmit'),
    );
    return sum(tallies);
  },
  lint: async () =>
    sum([
      await check('lint', 'eslint/bin/eslint.js', '--max-warnings', '0', '.'),
      await check('format', 'prettier/bin/prettier.cjs', '--check', '--log-level', 'warn', '.'),
    ]),
  core: () => jest('packages/core'),
  contract: () => jest('packages/contract'),
  demo: () => jest('packages/demo'),
  server: () => jest('packages/server'),
  web: () => jest('packages/web'),
  command: () => jest('packages/command'),
  e2e: () => jest('e2e'),
};

/** Runs the parts named, or all of them, and closes with one line over them all. */
export async function test(names: readonly string[]): Promise<void> {
  const unknown = names.filter((name) => !PARTS[name]);
  if (unknown.length > 0)
    throw new Plain(`There is no part “${unknown.join('”, “')}”. The parts are: ${Object.keys(PARTS).join(', ')}`);
  const tallies: Tally[] = [];
  for (const name of names.length > 0 ? names : Object.keys(PARTS)) {
    const began = Date.now();
    console.log(`\n== ${name}`);
    const tally = await (PARTS[name] as Part)();
    tallies.push(tally);
    console.log(
      `== ${name}: ${tally.passed} passed, ${tally.failed} failed, ${((Date.now() - began) / 1000).toFixed(0)} s`,
    );
  }
  const { passed, failed } = sum(tallies);
  console.log(`\n${passed} passed, ${failed} failed`);
  process.exitCode = failed === 0 ? 0 : 1;
}
