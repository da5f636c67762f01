// Builds what runs: the processes with esbuild, the web application with Angular's builder. Skips what is up to date.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

const root = dirname(dirname(fileURLToPath(import.meta.url)));
const dist = join(root, 'dist');

/** Path, size and time of every source below the folders: quicker than contents, and enough to see an edit. */
function stamp(folders) {
  const hash = createHash('sha1');
  const look = (path) => {
    const facts = statSync(path);
    if (facts.isDirectory())
      for (const name of readdirSync(path).sort())
        if (!['node_modules', 'dist', '.angular', 'test'].includes(name)) look(join(path, name));
    if (facts.isFile()) hash.update(`${path}\n${facts.size}\n${facts.mtimeMs}\n`);
  };
  for (const folder of folders) look(join(root, folder));
  return hash.digest('hex');
}

async function step(name, sources, result, work) {
  const file = join(dist, `.${name}.stamp`);
  const current = stamp(sources);
  if (existsSync(file) && readFileSync(file, 'utf8') === current && existsSync(join(dist, result))) return;
  const began = Date.now();
  process.stdout.write(`  building ${name} … `);
  await work();
  mkdirSync(dist, { recursive: true });
  writeFileSync(file, current);
  process.stdout.write(`${((Date.now() - began) / 1000).toFixed(1)} s\n`);
}

const shared = ['packages/core/src', 'packages/contract/src', 'package-lock.json', 'scripts/build.mjs'];

await step(
  'processes',
  [...shared, 'packages/server/src', 'packages/demo/src', 'packages/command/src', 'bench'],
  'larder.mjs',
  () =>
    build({
      absWorkingDir: root,
      entryPoints: {
        larder: 'packages/command/src/main.ts',
        server: 'packages/server/src/main-server.ts',
        worker: 'packages/server/src/main-worker.ts',
        'search-thread': 'packages/server/src/search/thread.ts',
        'merge-thread': 'packages/server/src/search/merge-thread.ts',
        'demo-maker': 'packages/demo/src/main-maker.ts',
        'tape-shelf': 'packages/server/src/stand-ins/tape-shelf.ts',
        'bench-slice': 'bench/slice.ts',
        'bench-ingest': 'bench/ingest.ts',
        'bench-logging': 'bench/logging.ts',
        'bench-search': 'bench/search.ts',
        'bench-dialogue': 'bench/dialogue.ts',
        'bench-relink': 'bench/relink.ts',
      },
      outdir: dist,
      outExtension: { '.js': '.mjs' },
      bundle: true,
      splitting: true,
      chunkNames: 'parts/[name]-[hash]',
      format: 'esm',
      platform: 'node',
      target: 'node20',
      sourcemap: 'linked',
      packages: 'external',
      tsconfig: 'tsconfig.base.json',
      logLevel: 'warning',
      // Source maps and readable stacks cost nothing here; names are kept for error logs.
      keepNames: true,
      plugins: [workspaceSources()],
    }),
);

if (!process.argv.includes('--no-web'))
  await step(
    'web',
    [...shared, 'packages/web/src', 'packages/web/angular.json', 'packages/web/package.json'],
    'web/browser/index.html',
    () => {
      const production = process.argv.includes('--development') ? 'development' : 'production';
      const { status, stdout, stderr } = spawnSync(
        process.execPath,
        [join(root, 'node_modules/@angular/cli/bin/ng.js'), 'build', '--configuration', production],
        {
          cwd: join(root, 'packages/web'),
          encoding: 'utf8',
          env: { ...process.env, NG_CLI_ANALYTICS: 'false', CI: 'true' },
        },
      );
      if (status !== 0) {
        rmSync(join(dist, '.web.stamp'), { force: true });
        throw new Error(`the web application could not be built:\n${stdout}\n${stderr}`);
      }
      if (process.env.LARDER_VERBOSE) process.stdout.write(stdout);
    },
  );

/** Workspace packages are bundled from their sources; everything from a registry stays outside. */
function workspaceSources() {
  const { paths } = JSON.parse(readFileSync(join(root, 'tsconfig.base.json'), 'utf8')).compilerOptions;
  return {
    name: 'workspace-sources',
    setup(builder) {
      builder.onResolve({ filter: /^@larder\// }, ({ path }) => {
        for (const [pattern, [target]] of Object.entries(paths)) {
          const [before, after] = pattern.split('*');
          if (after === undefined ? path === pattern : path.startsWith(before))
            return { path: join(root, target.replace('*', path.slice(before.length))) };
        }
        return undefined;
      });
    },
  };
}
