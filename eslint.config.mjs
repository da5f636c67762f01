import js from '@eslint/js';
import angular from 'angular-eslint';
import { createTypeScriptImportResolver } from 'eslint-import-resolver-typescript';
import importX from 'eslint-plugin-import-x';
import tseslint from 'typescript-eslint';

/** `from` may not import `what`: the one direction of dependence between the parts. */
const closed = (from, ...what) => ({
  target: `./packages/${from}/src`,
  from: what.map((name) => `./packages/${name}`),
  message: `${from} may not depend on ${what.join(', ')}: see docs/architecture.`,
});

/** As types are checked: everything stands in one program, and no other is looked through for it. */
const PROGRAMS = {
  'tsconfig.node.json': ['packages/{core,contract,server}/**/*.ts'],
  'tsconfig.dom.json': ['packages/{demo,command}/**/*.ts', 'e2e/**/*.ts', 'bench/**/*.ts'],
  'packages/web/tsconfig.spec.json': ['packages/web/**/*.ts'],
};

export default tseslint.config(
  {
    ignores: ['**/dist/**', '**/.angular/**', '**/node_modules/**', '.build/**', '.larder/**', '**/*.cjs', '**/*.mjs'],
  },
  {
    files: ['**/*.ts'],
    extends: [js.configs.recommended, ...tseslint.configs.recommendedTypeChecked],
    plugins: { 'import-x': importX },
    settings: {
      'import-x/resolver-next': [
        createTypeScriptImportResolver({
          noWarnOnMultipleProjects: true,
          project: ['tsconfig.base.json', 'packages/web/tsconfig.json'],
        }),
      ],
      'import-x/parsers': { '@typescript-eslint/parser': ['.ts'] },
    },
    rules: {
      'import-x/no-cycle': ['error', { ignoreExternal: true }],
      'import-x/no-restricted-paths': [
        'error',
        {
          zones: [
            closed('core', 'contract', 'server', 'web', 'demo', 'command'),
            closed('contract', 'server', 'web', 'demo', 'command'),
            closed('server', 'web', 'demo', 'command'),
            closed('web', 'server', 'demo', 'command'),
            closed('demo', 'contract', 'server', 'web', 'command'),
          ],
        },
      ],
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/require-await': 'off',
      // Interfaces are of plain objects here; taking a method out of one is how they are used.
      '@typescript-eslint/unbound-method': 'off',
      eqeqeq: ['error', 'smart'],
      'no-console': 'error',
    },
  },
  ...Object.entries(PROGRAMS).map(([project, files]) => ({
    files,
    languageOptions: { parserOptions: { project, tsconfigRootDir: import.meta.dirname } },
  })),
  {
    files: ['packages/core/src/**/*.ts'],
    rules: {
      'no-restricted-globals': ['error', 'window', 'document', 'process', 'Buffer', 'fetch', 'setTimeout'],
      'no-restricted-imports': ['error', { patterns: ['node:*', '@angular/*', 'sequelize', 'express'] }],
    },
  },
  { files: ['packages/command/src/**/*.ts', 'bench/**/*.ts'], rules: { 'no-console': 'off' } },
  {
    files: ['packages/web/src/**/*.ts'],
    extends: [...angular.configs.tsRecommended],
    processor: angular.processInlineTemplates,
    rules: {
      '@angular-eslint/prefer-on-push-component-change-detection': 'error',
      '@angular-eslint/component-selector': ['error', { type: 'element', prefix: 'nl', style: 'kebab-case' }],
    },
  },
  {
    files: ['packages/web/**/*.html'],
    extends: [
      ...angular.configs.templateRecommended,
      ...angular.configs.templateAccessibility,
      tseslint.configs.disableTypeChecked,
    ],
  },
);
