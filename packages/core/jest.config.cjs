module.exports = {
  ...require('../../jest.base.cjs'),
  rootDir: __dirname,
  displayName: 'core',
  testMatch: ['<rootDir>/test/**/*.spec.ts'],
  // The only peer that comes as modules of the new kind.
  transformIgnorePatterns: ['/node_modules/(?!geodesy/)'],
};
