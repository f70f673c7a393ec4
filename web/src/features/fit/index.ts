export { default as FitView } from './FitView.vue'
