export { default as BriefView } from './BriefView.vue'
