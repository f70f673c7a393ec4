export { default as KitRecordView } from './KitRecordView.vue'
