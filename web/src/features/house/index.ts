export { default as HouseView } from './HouseView.vue'
