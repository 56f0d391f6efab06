/** Unit tests beside the code; TypeScript through swc, packages resolved to their sources. */
export default {
  testEnvironment: 'node',
  // Looked up once a module: in Jest's sandbox every global goes through a slow interceptor otherwise.
  testTimeout: 60000,
  sandboxInjectedGlobals: ['Math', 'Number', 'Float64Array', 'Uint8Array', 'Int32Array', 'Array', 'Infinity'],
  roots: ['<rootDir>/packages', '<rootDir>/apps', '<rootDir>/demo'],
  testMatch: ['**/*.test.ts'],
  testPathIgnorePatterns: ['/node_modules/', '/dist/'],
  modulePathIgnorePatterns: ['/dist/'],
  transform: {
    '^.+\\.[cm]?[jt]sx?$': [
      '@swc/jest',
      {
        module: { type: 'commonjs' },
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', decorators: true },
          transform: { legacyDecorator: true, decoratorMetadata: true },
          keepClassNames: true,
        },
      },
    ],
  },
  // Packages that come as ES modules only are transformed too.
  transformIgnorePatterns: ['/node_modules/(?!(mediabunny|d3-[a-z]+|internmap|@tus|fast-check|pure-rand)/)'],
  moduleNameMapper: {
    '^@lurn/(core|model|engine|media)$': '<rootDir>/packages/$1/src/index.ts',
    '^(\\.{1,2}/.*)\\.js$': '$1',
  },
};
