const swc = [
  '@swc/jest',
  {
    jsc: {
      parser: { syntax: 'typescript', tsx: true },
      target: 'es2022',
      transform: { react: { runtime: 'automatic' } },
    },
    module: { type: 'commonjs' },
  },
];
const common = {
  testEnvironment: 'node',
  setupFiles: ['<rootDir>/src/testing/properties.ts'],
  transform: { '^.+\\.tsx?$': swc },
  // In a shared folder what is compiled could be somebody else's.
  cacheDirectory: '<rootDir>/.data/jest',
  modulePathIgnorePatterns: ['<rootDir>/.next', '<rootDir>/.data'],
};

/** Core tests are pure; database tests need DATABASE_URL, and each file has a database of its own, copied from one. */
module.exports = {
  projects: [
    {
      ...common,
      displayName: 'core',
      testMatch: [
        '<rootDir>/src/core/**/*.test.ts',
        '<rootDir>/src/standins/**/*.test.ts',
        '<rootDir>/src/ui/**/*.test.ts',
      ],
    },
    {
      ...common,
      displayName: 'database',
      setupFilesAfterEnv: ['<rootDir>/src/testing/asked.ts'],
      globalSetup: '<rootDir>/src/testing/before-all.ts',
      globalTeardown: '<rootDir>/src/testing/after-all.ts',
      testMatch: [
        '<rootDir>/src/server/**/*.test.ts',
        '<rootDir>/src/db/**/*.test.ts',
        '<rootDir>/src/cli/**/*.test.ts',
      ],
    },
  ],
  testSequencer: '<rootDir>/src/testing/sequencer.cjs',
  testTimeout: 120000,
};
