module.exports = {
  ...require('../jest.base.cjs'),
  rootDir: __dirname,
  displayName: 'e2e',
  testMatch: ['<rootDir>/**/*.spec.ts'],
  maxWorkers: 2,
  testTimeout: 300_000,
};
