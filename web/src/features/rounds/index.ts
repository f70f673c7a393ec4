export { default as RoundsView } from './RoundsView.vue'
