import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '../shared/tokens.css'
import './phone.css'

import { createApp } from 'vue'

import PhoneApp from './PhoneApp.vue'

createApp(PhoneApp).mount('#app')

// Only where the browser trusts the address may the page be kept for where there is no connection.
if (window.isSecureContext) void navigator.serviceWorker?.register('/phone-service.js', { scope: '/phone' })
