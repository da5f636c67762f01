const { createCjsPreset } = require('jest-preset-angular/presets/index.js');
const preset = createCjsPreset({ tsconfig: '<rootDir>/tsconfig.spec.json' });
module.exports = {
  ...preset,
  rootDir: __dirname,
  displayName: 'web',
  maxWorkers: '100%',
  testTimeout: 120_000,
  setupFilesAfterEnv: ['<rootDir>/test/setup.ts'],
  testMatch: ['<rootDir>/src/**/*.spec.ts'],
  moduleNameMapper: {
    '/(day|days|map|spread|totals)-chart$': '<rootDir>/test/charts.ts',
    '^@larder/core/(.*)$': '<rootDir>/../core/src/$1/index.ts',
    '^@larder/contract$': '<rootDir>/../contract/src/index.ts',
  },
};
