import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [react(), tailwindcss()],
  server: { proxy: { '/api': 'http://127.0.0.1:5080' } },
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 1200 },
  test: { environment: 'happy-dom', environmentOptions: { happyDOM: { url: 'http://localhost/' } }, testTimeout: 60_000, setupFiles: ['src/testing/setup.ts'], include: ['src/**/*.test.{ts,tsx}'] },
})
