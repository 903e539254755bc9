import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['tests/unit/**/*.test.ts'],
    testTimeout: 60_000,
    pool: 'forks',
    maxWorkers: 2,
    // Modules are loaded once for all files: a quarter of the time. What a test changes in one, it puts back.
    isolate: false,
    reporters: ['default'],
  },
})
