module.exports = {
  ...require('../../jest.base.cjs'),
  rootDir: __dirname,
  displayName: 'contract',
  testMatch: ['<rootDir>/test/**/*.spec.ts'],
};
