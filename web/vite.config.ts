import { fileURLToPath } from 'node:url'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url))

export default defineConfig({
  plugins: [react()],
  resolve: {
    alias: {
      '@verimend/core': here('../core/src/index.ts'),
      '@verimend/contract': here('../contract/src/index.ts'),
    },
  },
  worker: { format: 'es' },
  build: { target: 'es2022', sourcemap: false, assetsInlineLimit: 0, chunkSizeWarningLimit: 1200 },
  server: {
    host: '127.0.0.1',
    port: 4311,
    proxy: {
      '/api': {
        target: 'http://127.0.0.1:4310',
        changeOrigin: true,
        headers: { origin: 'http://127.0.0.1:4310' },
      },
    },
  },
})
