module.exports = {
  ...require('../../jest.base.cjs'),
  rootDir: __dirname,
  displayName: 'core',
  testMatch: ['<rootDir>/test/**/*.spec.ts'],
};
