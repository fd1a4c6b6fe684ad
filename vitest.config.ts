import { defineConfig } from 'vitest/config';

const shared = { testTimeout: 180_000, hookTimeout: 240_000 };

export default defineConfig({
  test: {
    // Two cores: more files at once would only wait for each other.
    maxWorkers: 2,
    projects: [
      {
        // Pure functions leave nothing behind, so their files may share what they have loaded.
        test: {
          ...shared,
          name: 'core',
          include: ['{core,api}/**/*.test.ts'],
          pool: 'threads',
          isolate: false,
        },
      },
      {
        test: {
          ...shared,
          name: 'app',
          include: ['{server,cli,demo,web,e2e}/**/*.test.ts'],
          globalSetup: ['demo/test-setup.ts', 'e2e/known-demo.ts'],
        },
      },
    ],
  },
});
