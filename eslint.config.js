import js from '@eslint/js';
import globals from 'globals';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

/** What each workspace may import of ours: one direction only, top to bottom (docs/how-it-works.md). */
const mayImport = {
  'packages/core': [],
  'packages/model': ['core'],
  'packages/media': ['core'],
  'packages/engine': ['core', 'model'],
  'apps/server': ['core', 'model', 'engine'],
  'apps/cli': ['core', 'model', 'engine'],
  'apps/web': ['core', 'model', 'media'],
};
const ours = ['core', 'model', 'media', 'engine', 'server', 'cli', 'web'];

const importDirections = Object.entries(mayImport).map(([folder, allowed]) => ({
  files: [`${folder}/src/**/*.{ts,tsx}`],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          {
            group: ours.filter((name) => !allowed.includes(name)).map((name) => `@lurn/${name}`),
            message: `${folder} may import only: ${allowed.map((name) => `@lurn/${name}`).join(', ') || 'nothing of ours'}.`,
          },
          {
            group: ['**/packages/*', '**/apps/*'],
            message: 'Import other workspaces by their package name.',
          },
          ...(folder === 'packages/core' || folder === 'packages/model'
            ? [
                {
                  group: ['node:*', 'fs', 'path', 'react'],
                  message: `${folder} has no I/O and no interface.`,
                },
              ]
            : []),
        ],
      },
    ],
  },
}));

export default ts.config(
  { ignores: ['**/dist/**', '**/node_modules/**', 'data/**', '.cache/**', 'test-results/**'] },
  js.configs.recommended,
  ...ts.configs.strict,
  {
    languageOptions: { globals: { ...globals.node, ...globals.browser } },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-extraneous-class': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'no-console': ['error', { allow: ['error'] }],
      eqeqeq: 'error',
    },
  },
  { files: ['packages/core/src/**/*.ts'], languageOptions: { globals: {} } },
  { files: ['apps/web/src/**/*.{ts,tsx}'], ...hooks.configs.flat['recommended-latest'] },
  { files: ['scripts/**', 'bench/**', 'demo/**', 'e2e/**', '**/*.test.ts'], rules: { 'no-console': 'off' } },
  ...importDirections,
);
