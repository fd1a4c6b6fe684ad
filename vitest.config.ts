import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,api,server,cli,demo,web,e2e}/**/*.test.ts'],
    globalSetup: ['demo/test-setup.ts', 'e2e/known-demo.ts'],
    testTimeout: 180_000,
    hookTimeout: 240_000,
    // Two cores: more files at once would only wait for each other.
    maxWorkers: 2,
  },
});
