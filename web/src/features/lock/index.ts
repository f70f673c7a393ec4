export { default as LockView } from './LockView.vue'
