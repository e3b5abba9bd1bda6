import { defineStore } from 'pinia'
import { ref } from 'vue'

import { onAnswer } from '@/api/client'

/** Named alike in `worker.ts`. */
const ANSWERS = 'volmek.answers'

/**
 * The pages as they are kept on this device: whether what is shown comes from the server or from what it said last, and whether a newer version
 * of the pages waits.
 */
export const useInstalled = defineStore('installed', () => {
  /** Since when what is shown was kept; empty while the server answers. */
  const keptSince = ref('')
  const newer = ref(false)
  /** Why this device keeps no pages, empty where it does. */
  const why = ref('')
  let waiting: ServiceWorker | null = null

  onAnswer((response) => {
    keptSince.value = response.headers.get('X-Kept') ?? ''
  })

  async function begin(): Promise<void> {
    if (!window.isSecureContext) {
      why.value =
        'Pages are not kept on this device for when the server does not answer: that needs TLS which the device trusts. An open page still keeps what is typed and recorded.'
      return
    }
    if (!('serviceWorker' in navigator) || !import.meta.env.PROD) return
    try {
      const found = await navigator.serviceWorker.register('/worker.js')
      if (!found) return // a browser that is told to keep none
      const ready = (worker: ServiceWorker | null) => {
        if (!worker || !navigator.serviceWorker.controller) return
        waiting = worker
        newer.value = true
      }
      ready(found.waiting)
      found.addEventListener('updatefound', () => {
        const coming = found.installing
        coming?.addEventListener('statechange', () => {
          if (coming.state === 'installed') ready(coming)
        })
      })
    } catch (error) {
      why.value = `Pages are not kept on this device: ${error instanceof Error ? error.message : String(error)}`
    }
  }
  /** Take the newer version: what is typed is kept on this device and is there again. */
  function take(): void {
    navigator.serviceWorker.addEventListener('controllerchange', () => location.reload(), {
      once: true,
    })
    waiting?.postMessage({ type: 'SKIP_WAITING' })
  }
  return { keptSince, newer, why, begin, take }
})

/** Forget what the server said: it was for who has signed out. */
export async function forgetAnswers(): Promise<void> {
  if ('caches' in window) await caches.delete(ANSWERS)
}
