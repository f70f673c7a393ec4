import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'

/** A field as in a fitter's notebook: what it asks above, a ruled line under what was written; its looks are in tokens.css. */
const field = {
  variant: 'underlined',
  density: 'compact',
  hideDetails: 'auto',
  persistentPlaceholder: true,
} as const

/** Ours: paper and ink, one red to act with, and nothing rounded more than a fitter's notebook. */
export const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: {
    defaultTheme: 'paper',
    themes: {
      paper: {
        dark: false,
        colors: {
          background: '#FAF7F0',
          surface: '#FFFFFF',
          primary: '#20262E',
          secondary: '#5D6670',
          error: '#B5392B',
          success: '#2F6B57',
          warning: '#8A5F00',
        },
      },
    },
  },
  defaults: {
    VBtn: { variant: 'outlined', rounded: 'sm', class: 'text-none' },
    VTextField: field,
    VTextarea: field,
    VSelect: field,
    VCheckbox: { density: 'compact', hideDetails: true },
    VBtnToggle: { density: 'compact', variant: 'outlined', divided: true, mandatory: true },
  },
})
