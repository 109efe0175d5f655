import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [react()],
  define: { __API_VERSION__: JSON.stringify('tested') },
  test: {
    environment: 'happy-dom',
    include: ['src/**/*.test.{ts,tsx}'],
    globalSetup: ['tests/given.ts'],
    setupFiles: ['tests/setup.ts'],
    // a busy machine draws slowly
    testTimeout: 60_000,
    restoreMocks: true,
    unstubGlobals: true,
    coverage: { include: ['src/**'], exclude: ['src/**/*.test.*', 'src/**/*.css', 'src/api/schema.gen.ts'] },
  },
})
