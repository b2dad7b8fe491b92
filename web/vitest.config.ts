import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import Components from 'unplugin-vue-components/vite'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [
    vue(),
    Components({ dts: false, dirs: [], resolvers: [ElementPlusResolver({ importStyle: false })] }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  test: {
    environment: 'happy-dom',
    environmentOptions: { happyDOM: { url: 'http://localhost:8420/' } },
    include: ['src/**/*.test.ts'],
    // A busy machine can stall for some seconds; what is done in time costs nothing.
    testTimeout: 30_000,
    setupFiles: ['src/testing/setup.ts'],
  },
})
