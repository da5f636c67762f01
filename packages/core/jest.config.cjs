module.exports = {
  ...require('../../jest.base.cjs'),
  rootDir: __dirname,
  displayName: 'core',
  testMatch: ['<rootDir>/test/**/*.spec.ts'],
  // These come as modules of the new kind.
  transformIgnorePatterns: ['/node_modules/(?!geodesy/|media-captions/)'],
};
