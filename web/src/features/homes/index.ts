export { default as HomesView } from './HomesView.vue'
