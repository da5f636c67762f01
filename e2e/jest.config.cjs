module.exports = {
  ...require('../jest.base.cjs'),
  rootDir: __dirname,
  displayName: 'e2e',
  testMatch: ['<rootDir>/**/*.spec.ts'],
  // A browser, a database, a server and workers have enough to do with two cores: with two such libraries nothing was done sooner, and
  // people came to wait for what should be there at once.
  maxWorkers: 1,
  testTimeout: 300_000,
};
