export { default as SetupsView } from './SetupsView.vue'
