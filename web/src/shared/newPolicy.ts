import { useEventListener, useSessionStorage } from '@vueuse/core'
import { ref, watch } from 'vue'

/**
 * A page keeps the policy that it was loaded with. When that bars the way to a test server that was set up since, the page is loaded anew, once for
 * each server and not in the middle of anything.
 */
export function useNewPolicy(server: () => string | undefined, busy: () => boolean) {
  const loadedFor = useSessionStorage('busy-hen policy', '')
  const barred = ref('')
  useEventListener(document, 'securitypolicyviolation', ({ blockedURI }) => {
    const own = server()
    if (own && blockedURI.startsWith(own) && loadedFor.value !== own) barred.value = own
  })
  watch(
    () => (barred.value && !busy() ? barred.value : undefined),
    (own) => {
      if (!own) return
      loadedFor.value = own
      window.location.reload()
    },
    { flush: 'post' },
  )
}
