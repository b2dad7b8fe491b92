import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import Components from 'unplugin-vue-components/vite'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [
    vue(),
    Components({
      dts: 'components.d.ts',
      dirs: [],
      resolvers: [ElementPlusResolver({ importStyle: 'css' })],
    }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  server: { proxy: { '/api': 'http://127.0.0.1:8420' } },
  build: { target: 'es2022', chunkSizeWarningLimit: 700 },
})
