/** What every Node-side Jest project shares: TypeScript by swc, workspace packages from their sources. */
const path = require('node:path');
const packages = path.join(__dirname, 'packages');
module.exports = {
  testEnvironment: 'node',
  // Every core: of itself Jest leaves one to somebody who watches.
  maxWorkers: '100%',
  transform: {
    '^.+\\.m?[jt]s$': [
      '@swc/jest',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'commonjs' } },
    ],
  },
  moduleNameMapper: {
    '^@larder/core/(.*)$': path.join(packages, 'core/src/$1/index.ts'),
    '^@larder/contract$': path.join(packages, 'contract/src/index.ts'),
    '^@larder/server$': path.join(packages, 'server/src/index.ts'),
    '^@larder/demo$': path.join(packages, 'demo/src/index.ts'),
    '^@larder/command/(.*)$': path.join(packages, 'command/src/$1.ts'),
  },
};
