export { default as HouseView } from './HouseView.vue'
export { houseEdit } from './houseEdit'
