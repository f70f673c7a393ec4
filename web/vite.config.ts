import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import vuetify from 'vite-plugin-vuetify'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  build: {
    target: 'es2022',
    chunkSizeWarningLimit: 900,
    // The phone's page is an entry of its own: it is loaded in weak rooms.
    rollupOptions: { input: ['index.html', 'phone.html'] },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8080' } },
})
