import { onBeforeUnmount, ref } from 'vue'

import { client, WORK } from '@/api/client'

/** Milliseconds before anything is said of a request, and between two looks at how far it is. */
const PATIENCE = 500
const LOOK = 400

/**
 * A request that may take long: how far it is, and that it can be cancelled.
 *
 * `run` gives the request its headers. Its answer comes when it is cancelled too: what was done until then, or why nothing is.
 */
export function useWork() {
  const busy = ref(false)
  const shown = ref(false)
  const words = ref('')
  const done = ref(0)
  const of = ref(0)
  let key = ''
  let timer = 0

  async function look(): Promise<void> {
    const mine = key
    shown.value = true
    const { data } = await client
      .GET('/api/requests/{key}', { params: { path: { key: mine } } })
      .catch(() => ({ data: undefined }))
    if (!busy.value || mine !== key) return
    if (data) [words.value, done.value, of.value] = [data.words, data.done, data.of]
    timer = window.setTimeout(() => void look(), LOOK)
  }

  /** `queued`: the server may answer later, and this waits; what is read is answered at once as far as it is there. */
  async function run<T>(
    ask: (headers: Record<string, string>) => Promise<T>,
    queued = true,
  ): Promise<T> {
    key = `${Date.now().toString(36)}-${Math.random().toString(36).slice(2)}`
    const mine = key
    ;[words.value, done.value, of.value] = ['waiting for the server', 0, 0]
    busy.value = true
    window.clearTimeout(timer)
    timer = window.setTimeout(() => void look(), PATIENCE)
    try {
      return await ask({ [WORK]: mine, ...(queued ? { Prefer: 'respond-async' } : {}) })
    } finally {
      if (mine === key) {
        window.clearTimeout(timer)
        busy.value = shown.value = false
      }
    }
  }

  async function cancel(): Promise<void> {
    words.value = 'cancelling'
    await client.DELETE('/api/requests/{key}', { params: { path: { key } } }).catch(() => null)
  }

  onBeforeUnmount(() => {
    if (busy.value) void cancel()
  })
  return { busy, shown, words, done, of, run, cancel }
}

export type Work = ReturnType<typeof useWork>
