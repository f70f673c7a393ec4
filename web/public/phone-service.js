// Keeps the phone's page where there is no connection. Only trusted addresses may have such a worker; elsewhere the page says to keep it
// open. Readings are never answered from here.
const SHELF = 'busy-hen phone page'
const PAGE = '/phone'
const WORKER = /\/worker-[\w-]+\.js$/
const parts = (text) => [...new Set(text.match(/\/?assets\/[\w.-]+\.(?:js|css|woff2)/g) ?? [])]
const path = (part) => (part.startsWith('/') ? part : `/${part}`)

/** Takes the page and all that it loads, also what only its scripts name. */
async function take() {
  const shelf = await caches.open(SHELF)
  const page = await fetch(PAGE, { cache: 'no-cache' })
  if (!page.ok) throw new Error(`the page answered ${page.status}`)
  const wanted = parts(await page.clone().text()).map(path)
  const there = new Set()
  for (let next = wanted.pop(); next; next = wanted.pop()) {
    if (there.has(next)) continue
    there.add(next)
    // Workers go by the policy that their script comes with, which may let out to a far end that was noted since.
    const part = await fetch(next, WORKER.test(next) ? { cache: 'no-cache' } : {})
    if (!part.ok) continue
    if (/\.(js|css)$/.test(next)) wanted.push(...parts(await part.clone().text()).map(path))
    await shelf.put(next, part)
  }
  await shelf.put(PAGE, page)
  for (const old of await shelf.keys()) {
    const name = new URL(old.url).pathname
    if (name !== PAGE && !there.has(name)) await shelf.delete(old)
  }
}

self.addEventListener('install', (event) => event.waitUntil(take().then(() => self.skipWaiting())))
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))
self.addEventListener('fetch', (event) => {
  const { pathname, origin } = new URL(event.request.url)
  if (event.request.method !== 'GET' || origin !== self.location.origin) return
  const kept = () => caches.match(pathname).then((own) => own ?? Response.error())
  if (pathname === PAGE) {
    // The newest page where there is a connection, else the kept one.
    const answer = fetch(event.request).then((page) => {
      if (page.ok) event.waitUntil(take().catch(() => undefined))
      return page
    })
    event.respondWith(answer.catch(kept))
  } else if (WORKER.test(pathname)) {
    event.respondWith(fetch(event.request).catch(kept))
  } else if (pathname.startsWith('/assets/')) {
    event.respondWith(caches.match(pathname).then((own) => own ?? fetch(event.request)))
  }
})
