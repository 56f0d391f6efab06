import js from '@eslint/js';
import globals from 'globals';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

/** What each workspace may import of ours: one direction only, top to bottom (docs/how-it-works.md). */
const mayImport = {
  'packages/kernels': [],
  'packages/core': ['kernels'],
  'packages/model': ['core'],
  'packages/media': ['core', 'kernels'],
  'packages/engine': ['core', 'model'],
  'apps/server': ['core', 'model', 'engine'],
  'apps/cli': ['core', 'model', 'engine'],
  'apps/web': ['core', 'model', 'media'],
};
const ours = ['kernels', 'core', 'model', 'media', 'engine', 'server', 'cli', 'web'];

/** core's folders: each may use those before it only (docs/architecture.md). */
const coreFolders = [
  ...[
    'picture',
    'geometry',
    'smooth',
    'track',
    'surface',
    'soft',
    'trackers',
    'scene',
    'solve',
    'framing',
    'warp',
    'measure',
    'plan',
    'compose',
  ],
  ...['doubt', 'formats'],
];

function allowed(folder) {
  return [
    {
      group: ours.filter((name) => !mayImport[folder].includes(name)).map((name) => `@lurn/${name}`),
      message: `${folder} may import only: ${mayImport[folder].map((name) => `@lurn/${name}`).join(', ') || 'nothing of ours'}.`,
    },
    { group: ['**/packages/*', '**/apps/*'], message: 'Import other workspaces by their package name.' },
  ];
}

const noIO = {
  group: ['node:*', 'fs', 'path', 'react'],
  message: 'core and model have no I/O and no interface.',
};
const pure = (folder) => ['packages/core', 'packages/model'].includes(folder);

const restrict = (files, patterns, ignores = []) => ({
  ...{ files, ignores, rules: { 'no-restricted-imports': ['error', { patterns }] } },
});

const importDirections = [
  ...Object.keys(mayImport).flatMap((folder) => [
    restrict([`${folder}/src/**/*.{ts,tsx}`], [...allowed(folder), ...(pure(folder) ? [noIO] : [])]),
    restrict([`${folder}/src/**/*.test.{ts,tsx}`], allowed(folder)),
  ]),
  ...coreFolders.map((folder, i) => {
    const later = [...coreFolders.slice(i + 1), 'testing'];
    const message = `core/${folder} may import only: ${coreFolders.slice(0, i).join(', ') || 'none of the other folders'}.`;
    return restrict(
      [`packages/core/src/${folder}/*.ts`],
      [...allowed('packages/core'), noIO, { group: later.map((name) => `../${name}/*`), message }],
      ['**/*.test.ts'],
    );
  }),
];

export default ts.config(
  {
    ignores: [
      '**/dist/**',
      '**/node_modules/**',
      'data/**',
      '.cache/**',
      'test-results/**',
      'packages/kernels/assembly/**',
      '**/generated/**',
    ],
  },
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
  // TypeScript says so itself.
  { files: ['**/*.{ts,tsx}'], rules: { '@typescript-eslint/no-unused-vars': 'off' } },
  { files: ['packages/core/src/**/*.ts'], languageOptions: { globals: {} } },
  { files: ['apps/web/src/**/*.{ts,tsx}'], ...hooks.configs.flat['recommended-latest'] },
  { files: ['scripts/**', 'bench/**', 'demo/**', 'e2e/**', '**/*.test.ts'], rules: { 'no-console': 'off' } },
  ...importDirections,
);
