import { resolve } from 'node:path'
import react from '@vitejs/plugin-react'
import { defineConfig, type Plugin } from 'vite'
import { antdStyles } from './vite/antdStyles'
import { licences } from './vite/licences'

/** The server that a developer's start has started. */
const origin = process.env.VERIMEND_SERVER

/** Fonts are sent for with the page, not when the first text is drawn: it would be set twice, and jump. */
const fontsFirst: Plugin = {
  name: 'fonts-first',
  transformIndexHtml: {
    order: 'post',
    handler: (_, { bundle = {} }) =>
      Object.keys(bundle)
        .filter((file) => /-latin-wght-normal-[\w-]+\.woff2$/.test(file))
        .map((file) => ({
          tag: 'link',
          attrs: { rel: 'preload', as: 'font', type: 'font/woff2', href: `/${file}`, crossorigin: '' },
          injectTo: 'head-prepend',
        })),
  },
}

export default defineConfig({
  plugins: [react(), antdStyles(), fontsFirst, licences(resolve(import.meta.dirname, '..'))],
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
