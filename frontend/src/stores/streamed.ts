import { ref, shallowRef } from 'vue'

import { wordsOf } from '@/stores/asked'

const LINES = 'application/x-ndjson'

/**
 * An answer that comes line by line: each line is given to `take` as soon as it is there. A new question, and `stop`, end the one before.
 */
export function useStreamed<T>(take: (line: T, first: boolean) => void) {
  const busy = ref(false)
  const said = ref('')
  const asked = shallowRef<AbortController | null>(null)

  function stop(): void {
    asked.value?.abort()
    asked.value = null
    busy.value = false
  }
  async function ask(url: string): Promise<void> {
    stop()
    const mine = new AbortController()
    asked.value = mine
    busy.value = true
    said.value = ''
    try {
      const answer = await fetch(url, { headers: { Accept: LINES }, signal: mine.signal })
      if (!answer.ok || !answer.body) {
        said.value = wordsOf(await answer.json().catch(() => null))
        return
      }
      await read(answer.body, mine)
    } catch {
      if (asked.value === mine) said.value = 'the server does not answer'
    } finally {
      if (asked.value === mine) busy.value = false
    }
  }
  async function read(body: ReadableStream<Uint8Array>, mine: AbortController): Promise<void> {
    const reader = body.getReader()
    const decoder = new TextDecoder()
    let left = ''
    let first = true
    for (;;) {
      const { done, value } = await reader.read()
      if (done || asked.value !== mine) return
      const lines = (left + decoder.decode(value, { stream: true })).split('\n')
      left = lines.pop() ?? ''
      for (const line of lines) {
        take(JSON.parse(line) as T, first)
        first = false
      }
    }
  }
  return { busy, said, ask, stop }
}
