export { default as DrillsView } from './DrillsView.vue'
export { partWord } from './words'
