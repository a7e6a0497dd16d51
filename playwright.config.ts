// Browser tests: Debian's Chromium against the built server, two files at a time.
import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'tests/browser',
  workers: 2,
  // Only what hangs is ended by the clock: a machine may be many times slower than another.
  timeout: 600_000,
  // CI’s machine may stall for seconds: what then fails is tried once more, and listed as flaky.
  retries: process.env.CI ? 1 : 0,
  expect: { timeout: 60_000 },
  reporter: [['list'], ['json', { outputFile: 'test-results/browser.json' }]],
  use: {
    actionTimeout: 120_000,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        // A name that is not this machine's own to the browser: pages of plain HTTP from elsewhere.
        '--host-resolver-rules=MAP studio.test 127.0.0.1',
        '--autoplay-policy=no-user-gesture-required',
        '--disable-audio-output'
      ]
    }
  }
});
