import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '../shared/tokens.css'
import './phone.css'

import { createApp } from 'vue'

import PhoneApp from './PhoneApp.vue'

createApp(PhoneApp).mount('#app')
