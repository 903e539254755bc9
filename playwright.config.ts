import { existsSync } from 'node:fs'
import { defineConfig } from '@playwright/test'
import { launchOptions } from './tests/support/launch.ts'

/** A folder of pictures for the tests that need one; made by the global set-up. */
export const picturesFolder = '.cache/pictures'

/** Where the server of the tests listens; two checkouts that are tested at once need two. */
export const testPort = Number(process.env.TUG_TEST_PORT ?? 4317)

/**
 * The same build without windows takes a fifth less of a small machine; what is measured is measured in the whole
 * browser.
 */
const shell = '/usr/bin/chromium-headless-shell'

export default defineConfig({
  testDir: 'tests/browser',
  // Limits only bound what hangs: no test depends on how fast the machine is.
  timeout: 600_000,
  expect: { timeout: 60_000 },
  fullyParallel: true,
  retries: 0,
  // Drives take the time that they take: four tests use what two leave of two cores.
  workers: 4,
  // Those that measure in ms what live runs do are run after the others, each by itself.
  projects: [
    {
      name: 'beside',
      grepInvert: /@alone/,
      use: {
        launchOptions: { ...launchOptions, executablePath: existsSync(shell) ? shell : launchOptions.executablePath },
      },
    },
    { name: 'alone', grep: /@alone/, workers: 1 },
  ],
  globalSetup: './tests/browser/global-setup.ts',
  reporter: [['list'], ['json', { outputFile: process.env.TUG_BROWSER_REPORT ?? '.cache/browser.json' }]],
  use: {
    baseURL: `http://127.0.0.1:${testPort}`,
    viewport: { width: 1280, height: 800 },
    launchOptions,
  },
})
