import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['tests/unit/**/*.test.ts'],
    testTimeout: 60_000,
    pool: 'forks',
    maxWorkers: 2,
    reporters: ['default'],
  },
})
