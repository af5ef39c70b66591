// Keeps the pages of a lab session at hand while the line is away: the page itself and its scripts, styles and fonts.
// What the server knows is never kept here.
const KEPT = 'wolfsbane-pages'

self.addEventListener('install', (event) => {
  event.waitUntil(caches.open(KEPT).then((kept) => kept.add('/')))
  self.skipWaiting()
})
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))

/** What the page had loaded before this one was there to see it. */
self.addEventListener('message', (event) => {
  const paths = Array.isArray(event.data)
    ? event.data.filter((p) => typeof p === 'string' && p.startsWith('/assets/'))
    : []
  event.waitUntil(caches.open(KEPT).then((kept) => Promise.all(paths.map((p) => kept.add(p).catch(() => undefined)))))
})

async function asset(request) {
  const found = await caches.match(request)
  if (found) return found
  const reply = await fetch(request)
  if (reply.ok) (await caches.open(KEPT)).put(request, reply.clone())
  return reply
}

async function page(request) {
  try {
    const reply = await fetch(request)
    if (reply.ok) (await caches.open(KEPT)).put('/', reply.clone())
    return reply
  } catch (error) {
    const found = await caches.match('/')
    if (found) return found
    throw error
  }
}

self.addEventListener('fetch', (event) => {
  const { request } = event
  const url = new URL(request.url)
  if (request.method !== 'GET' || url.origin !== self.location.origin) return
  if (url.pathname.startsWith('/assets/')) event.respondWith(asset(request))
  else if (request.mode === 'navigate' && !url.pathname.startsWith('/api/')) event.respondWith(page(request))
})
