import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [react()],
  build: { assetsInlineLimit: 0, target: 'es2022', chunkSizeWarningLimit: 700 },
  server: {
    host: '127.0.0.1',
    port: 8766,
    proxy: {
      '/api': { target: 'http://127.0.0.1:8765', changeOrigin: true, headers: { origin: 'http://127.0.0.1:8765' } },
    },
  },
  test: {
    environment: 'jsdom',
    testTimeout: 20_000,
    isolate: false,
    include: ['tests/**/*.test.{ts,tsx}'],
    setupFiles: ['tests/setup.ts'],
  },
})
