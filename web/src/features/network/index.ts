export { default as LegsNote } from './LegsNote.vue'
export { default as NetworkDialog } from './NetworkDialog.vue'
export { default as OpenNetwork } from './OpenNetwork.vue'
export { useNetwork } from './useNetwork'
