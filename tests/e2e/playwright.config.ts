import { defineConfig } from '@playwright/test'

/** The application as ./start serves it, on a real database, in Debian's Chromium. */
export default defineConfig({
  testDir: '.',
  timeout: 300_000,
  expect: { timeout: 30_000 },
  fullyParallel: false,
  workers: 1,
  retries: 0,
  globalSetup: './served.ts',
  reporter: [['list'], ['json', { outputFile: '../../.run/e2e.json' }]],
  outputDir: '../../.run/e2e-results',
  use: {
    baseURL: `http://127.0.0.1:${process.env.JUNIPERFALL_E2E_PORT ?? '5090'}`,
    viewport: { width: 1280, height: 800 },
    trace: 'retain-on-failure',
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
      ],
    },
  },
})
