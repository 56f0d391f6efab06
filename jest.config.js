import { availableParallelism } from 'node:os';

/** Unit tests beside the code, each bundled with what it imports; what cannot be, file by file through swc. */
const swc = (parser) => [
  '<rootDir>/scripts/jest/transform.mjs',
  {
    module: { type: 'commonjs' },
    jsc: {
      target: 'es2022',
      parser: { syntax: 'typescript', decorators: true, ...parser },
      transform: { legacyDecorator: true, decoratorMetadata: true, react: { runtime: 'automatic' } },
      keepClassNames: true,
    },
  },
];

export default {
  testEnvironment: 'node',
  globalSetup: '<rootDir>/scripts/jest/bundles.mjs',
  // Looked up once a module: in Jest's sandbox every global goes through a slow interceptor otherwise.
  testTimeout: 60000,
  // Of two processors both.
  maxWorkers: Math.max(2, availableParallelism() - 1),
  sandboxInjectedGlobals: ['Math', 'Number', 'Float64Array', 'Uint8Array', 'Int32Array', 'Array', 'Infinity'],
  roots: ['<rootDir>/packages', '<rootDir>/apps', '<rootDir>/demo'],
  testMatch: ['**/*.test.ts', '**/*.test.tsx'],
  testPathIgnorePatterns: ['/node_modules/', '/dist/'],
  modulePathIgnorePatterns: ['/dist/'],
  transform: { '^.+\\.tsx$': swc({ tsx: true }), '^.+\\.[cm]?[jt]s$': swc({}) },
  // Packages that come as ES modules only are transformed too.
  transformIgnorePatterns: [
    '/node_modules/(?!(fast-png|iobuffer|mediabunny|d3-[a-z-]+|internmap|@tus|fast-check|pure-rand|tinypool|lru-cache|srvx|@tanstack)/)',
  ],
  moduleNameMapper: {
    // One bundle for all of core's entries: a class in two of them would be two classes.
    '^@lurn/core(/[a-z]+)?$': '<rootDir>/packages/core/src/testing/whole.ts',
    '^@lurn/(kernels|model|engine|media)$': '<rootDir>/packages/$1/src/index.ts',
    // It has an icon called Infinity, which is one of the globals above.
    '^lucide-react$': '<rootDir>/apps/web/src/testing/icons.cjs',
    '^(\\.{1,2}/.*)\\.js$': '$1',
  },
};
