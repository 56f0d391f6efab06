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
  ...{ files, excludeFiles: ignores, rules: { 'no-restricted-imports': ['error', { patterns }] } },
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

const named = (...names) => Object.fromEntries(names.map((name) => [name, 'error']));

export default {
  plugins: ['eslint', 'typescript', 'oxc', 'import', 'react'],
  categories: { correctness: 'error' },
  ignorePatterns: [
    '**/dist/**',
    '**/node_modules/**',
    'data/**',
    '.cache/**',
    'test-results/**',
    'packages/kernels/assembly/**',
    '**/generated/**',
  ],
  rules: {
    ...named(
      ...['no-case-declarations', 'no-empty', 'no-fallthrough', 'no-prototype-builtins', 'no-regex-spaces'],
      ...[
        'no-unexpected-multiline',
        'no-var',
        'prefer-const',
        'prefer-rest-params',
        'prefer-spread',
        'eqeqeq',
      ],
      ...['no-array-constructor', 'no-useless-constructor', 'no-unused-expressions'],
    ),
    ...named(
      ...['ban-ts-comment', 'no-dynamic-delete', 'no-empty-object-type', 'no-explicit-any'].map(
        (r) => `typescript/${r}`,
      ),
      ...['no-invalid-void-type', 'no-namespace', 'no-require-imports', 'no-unsafe-function-type'].map(
        (r) => `typescript/${r}`,
      ),
      ...['no-non-null-asserted-nullish-coalescing', 'no-unnecessary-type-constraint'].map(
        (r) => `typescript/${r}`,
      ),
      ...['prefer-literal-enum-member', 'unified-signatures'].map((r) => `typescript/${r}`),
    ),
    'no-unused-vars': [
      'error',
      {
        argsIgnorePattern: '^_',
        varsIgnorePattern: '^_',
        destructuredArrayIgnorePattern: '^_',
        ignoreRestSiblings: true,
      },
    ],
    'no-console': ['error', { allow: ['error'] }],
    'import/no-cycle': ['error', { ignoreTypes: false }],
  },
  overrides: [
    {
      files: ['apps/web/src/**/*.{ts,tsx}'],
      rules: { 'react/rules-of-hooks': 'error', 'react/unsupported-syntax': 'error' },
    },
    {
      files: ['scripts/**', 'bench/**', 'demo/**', 'e2e/**', '**/*.test.ts'],
      rules: { 'no-console': 'off' },
    },
    ...importDirections,
  ],
};
