import { defineConfig } from '@playwright/test'

/** A folder of pictures for the tests that need one; made by the global set-up. */
export const picturesFolder = '.cache/pictures'

export default defineConfig({
  testDir: 'tests/browser',
  timeout: 60_000,
  fullyParallel: false,
  workers: 1,
  retries: 0,
  globalSetup: './tests/browser/global-setup.ts',
  reporter: [['list'], ['json', { outputFile: '.cache/browser.json' }]],
  use: {
    baseURL: 'http://127.0.0.1:4317',
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
    },
  },
})
