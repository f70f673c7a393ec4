import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/fraunces'
import 'vuetify/styles'
import './shared/tokens.css'

import { createPinia } from 'pinia'
import { createApp } from 'vue'

import App from './App.vue'
import { router } from './router'
import { vuetify } from './vuetify'

createApp(App).use(createPinia()).use(router).use(vuetify).mount('#app')
