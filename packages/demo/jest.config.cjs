module.exports = {
  ...require('../../jest.base.cjs'),
  rootDir: __dirname,
  displayName: 'demo',
  testTimeout: 120_000,
  testMatch: ['<rootDir>/test/**/*.spec.ts'],
};
