import '@fontsource-variable/source-sans-3'
import '@fontsource-variable/source-serif-4'
import 'element-plus/theme-chalk/base.css'
import './theme/desk.css'
import './theme/paper.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './App.vue'
import { focusHeading, keepFocus } from './platform/focusKeeper'
import { router } from './router'

createApp(App).use(createPinia()).use(router).mount('#app')

keepFocus(document.body)
router.afterEach((to, from) => {
  if (to.path !== from.path && from.matched.length) void focusHeading()
})
