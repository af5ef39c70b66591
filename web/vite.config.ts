import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import Components from 'unplugin-vue-components/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [
    vue(),
    Components({
      dts: false,
      dirs: [],
      resolvers: [ElementPlusResolver({ importStyle: process.env.VITEST ? false : 'css' })],
    }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { '/api': 'http://127.0.0.1:8040' } },
  // a test ends when it is done; these bounds only end one that never will, however busy the machine is
  test: {
    environment: 'happy-dom',
    testTimeout: 180_000,
    hookTimeout: 180_000,
    setupFiles: ['tests/setup.ts'],
    server: { deps: { inline: ['element-plus'] } },
  },
} as Parameters<typeof defineConfig>[0])
