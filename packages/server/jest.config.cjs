module.exports = {
  ...require('../../jest.base.cjs'),
  rootDir: __dirname,
  displayName: 'server',
  maxWorkers: 2,
  testTimeout: 180_000,
  testMatch: ['<rootDir>/test/**/*.spec.ts'],
};
