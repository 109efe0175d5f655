import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'
import { guide } from './guide-plugin'

/** The API this front end was built for; the server says its own with every answer. */
const api = createHash('sha256')
  .update(readFileSync(new URL('../docs/openapi.json', import.meta.url)))
  .digest('hex')
  .slice(0, 12)

export default defineConfig({
  plugins: [
    guide(),
    react(),
    VitePWA({
      registerType: 'prompt',
      injectRegister: false,
      manifest: {
        name: 'Dianoia',
        short_name: 'Dianoia',
        start_url: '/',
        display: 'standalone',
        background_color: '#f6f1e6',
        theme_color: '#f6f1e6',
        icons: [],
      },
      workbox: {
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/api\//, /^\/healthz/],
        globPatterns: ['**/*.{js,css,html,woff2,png}'],
        inlineWorkboxRuntime: true,
      },
    }),
  ],
  define: { __API_VERSION__: JSON.stringify(api) },
  server: { port: 5173, proxy: { '/api': 'http://127.0.0.1:8000' } },
  // fonts as files of their own: the page's policy takes none from within a style sheet
  build: { target: 'es2022', chunkSizeWarningLimit: 1200, assetsInlineLimit: 0 },
})
