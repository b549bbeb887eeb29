import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

/** The server that a developer's start has started. */
const origin = process.env.VERIMEND_SERVER

export default defineConfig({
  plugins: [react()],
  worker: { format: 'es' },
  css: { modules: { localsConvention: 'camelCaseOnly' } },
  build: { target: 'es2022', sourcemap: false, assetsInlineLimit: 0, chunkSizeWarningLimit: 1200 },
  server: {
    host: '127.0.0.1',
    // the next free one is taken when this one is in use
    port: 4311,
    ...(origin && { proxy: { '/api': { target: origin, changeOrigin: true, headers: { origin } } } }),
  },
})
