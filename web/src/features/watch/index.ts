export { default as WatchView } from './WatchView.vue'
