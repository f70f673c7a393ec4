export { default as BenchLayout } from './BenchLayout.vue'
export { useBench } from './useBench'
export { useHome } from './useHome'
