/** Loaded when it is opened: an editor of text comes with it. */
export const HouseView = () => import('./HouseView.vue')
export { houseEdit } from './houseEdit'
