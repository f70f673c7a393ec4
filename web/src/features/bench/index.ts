export { default as BenchLayout } from './BenchLayout.vue'
export { useBench } from './useBench'
export { type HomeHandle, useHome } from './useHome'
export { useHomeDraft } from './useHomeDraft'
