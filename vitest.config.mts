import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

const alias = { '@': fileURLToPath(new URL('./src', import.meta.url)) };

export default defineConfig({
  test: {
    // Each test file has its own data: as many at once as there are processors.
    maxWorkers: '100%',
    projects: [
      {
        resolve: { alias },
        test: {
          name: 'unit',
          include: ['src/**/*.test.ts', 'demo/**/*.test.ts', 'stand-ins/**/*.test.ts'],
          exclude: ['src/**/*.integration.test.ts', 'src/**/*.client.test.ts'],
          // No test is about time: a busy machine only takes longer.
          testTimeout: 30_000,
        },
      },
      {
        // What runs in a browser, in one that draws nothing.
        resolve: { alias },
        oxc: { jsx: { runtime: 'automatic' } },
        test: { name: 'client', environment: 'happy-dom', include: ['src/**/*.client.test.ts'] },
      },
      {
        resolve: { alias },
        test: {
          name: 'integration',
          include: ['src/**/*.integration.test.ts'],
          testTimeout: 60_000,
          hookTimeout: 60_000,
        },
      },
    ],
  },
});
