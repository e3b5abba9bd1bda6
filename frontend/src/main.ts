import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '@fontsource-variable/atkinson-hyperlegible-mono/wght.css'
import './style.css'
import './print.css'

import { createPinia } from 'pinia'
import PrimeVue from 'primevue/config'
import { createApp } from 'vue'

import App from '@/app/App.vue'
import { router } from '@/app/router'
import { VolmekPreset } from '@/app/theme'
import { useMe } from '@/stores/me'
import { useWording } from '@/stores/wording'

const app = createApp(App)
  .use(createPinia())
  .use(router)
  .use(PrimeVue, {
    theme: {
      preset: VolmekPreset,
      options: {
        darkModeSelector: '.dark',
        cssLayer: { name: 'primevue', order: 'base, primevue' },
      },
    },
  })

// A text of the core in the words of the starter's practice, for every template.
app.config.globalProperties.$say = (text: string) => useWording().say(text)

// Fields are named before they are drawn; without the server the page still opens and says so.
void Promise.all([useWording().load(), useMe().load()]).finally(() => app.mount('#app'))
