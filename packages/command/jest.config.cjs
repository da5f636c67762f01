module.exports = {
  ...require('../../jest.base.cjs'),
  rootDir: __dirname,
  displayName: 'command',
  testTimeout: 120_000,
  testMatch: ['<rootDir>/test/**/*.spec.ts'],
};
