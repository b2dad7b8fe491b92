import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import Components from 'unplugin-vue-components/vite'
import { defineConfig, type Plugin } from 'vite'

/** The pages that most readers come for: their code is on its way with the first answer, not after it. */
const AWAITED = ['/src/views/DeskPage.vue', '/src/views/QuestionPage.vue']

/** Has the code and the styles of the awaited pages fetched while the entry is still being read. */
function preloadPages(): Plugin {
  return {
    name: 'preload-pages',
    transformIndexHtml: {
      order: 'post',
      handler(_html, { bundle }) {
        const files = Object.values(bundle ?? {})
        const scripts = new Set<string>()
        const styles = new Set<string>()
        const take = (name: string) => {
          const chunk = files.find((f) => f.fileName === name)
          if (chunk?.type !== 'chunk' || chunk.isEntry || scripts.has(name)) return
          scripts.add(name)
          chunk.viteMetadata?.importedCss.forEach((css) => styles.add(css))
          chunk.imports.forEach(take)
        }
        for (const file of files)
          if (file.type === 'chunk' && AWAITED.some((page) => file.facadeModuleId?.endsWith(page)))
            take(file.fileName)
        return [
          ...[...scripts].map((name) => ({
            tag: 'link',
            attrs: { rel: 'modulepreload', crossorigin: true, href: '/' + name },
            injectTo: 'head' as const,
          })),
          ...[...styles].map((name) => ({
            tag: 'link',
            attrs: { rel: 'preload', as: 'style', crossorigin: true, href: '/' + name },
            injectTo: 'head' as const,
          })),
        ]
      },
    },
  }
}

export default defineConfig({
  plugins: [
    vue(),
    preloadPages(),
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
