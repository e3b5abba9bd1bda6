/// <reference lib="webworker" />
/**
 * The pages and what the server said last, for when it does not answer. Reads go to the server as long as it is there; writes always do: what
 * cannot be sent is kept by the page itself.
 */
import {
  cleanupOutdatedCaches,
  createHandlerBoundToURL,
  precacheAndRoute,
} from 'workbox-precaching'
import { NavigationRoute, registerRoute } from 'workbox-routing'
import { NetworkFirst } from 'workbox-strategies'

declare const self: ServiceWorkerGlobalScope & {
  __WB_MANIFEST: { url: string; revision: string | null }[]
}

/** Named alike in `stores/installed.ts`, which empties it when somebody signs out. */
const ANSWERS = 'volmek.answers'
/** Answers that are of the moment, large, or somebody's alone. */
const NOT_KEPT = /\/state$|\/requests\/|\/backup$|\/changes|\/people|\.pdf$|\/jobs\/file$|\/meter$/

precacheAndRoute(self.__WB_MANIFEST)
cleanupOutdatedCaches()
registerRoute(
  new NavigationRoute(createHandlerBoundToURL('/index.html'), { denylist: [/^\/api\//] }),
)

/** An answer that is kept says since when; the page shows it. */
const dated = {
  cacheWillUpdate: async ({ response }: { response: Response }) => {
    if (response.status !== 200) return null
    const headers = new Headers(response.headers)
    headers.set('X-Kept', new Date().toISOString())
    return new Response(await response.blob(), { status: 200, headers })
  },
}
registerRoute(
  ({ url, request }) =>
    request.method === 'GET' &&
    url.pathname.startsWith('/api/') &&
    !NOT_KEPT.test(url.pathname) &&
    !request.headers.has('Prefer'),
  new NetworkFirst({ cacheName: ANSWERS, plugins: [dated], matchOptions: { ignoreVary: true } }),
)

self.addEventListener('message', (event) => {
  if ((event.data as { type?: string } | null)?.type === 'SKIP_WAITING') void self.skipWaiting()
})
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()))
