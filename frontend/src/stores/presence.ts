import { onBeforeUnmount, onMounted, ref } from 'vue'

import { type StarterState } from '@/api/client'
import { useJournal } from '@/stores/journal'
import { useStarter } from '@/stores/starter'
import { useWording } from '@/stores/wording'

/** How often others' changes are asked after; an answer without one is a word. */
const EVERY_MS = 3000
const SHOWN_MS = 5 * 60_000

/** What an address says, with the entity tag of the answer before: null while nothing is new. */
export function useMark<T>(address: () => string, heard: (now: T) => void): void {
  let tag = ''
  let at = ''
  let timer = 0
  async function look(): Promise<void> {
    window.clearTimeout(timer)
    const asked = address()
    if (asked && document.visibilityState === 'visible') {
      if (asked !== at) [at, tag] = [asked, '']
      try {
        const answer = await fetch(asked, tag ? { headers: { 'If-None-Match': tag } } : {})
        if (answer.ok && asked === address()) {
          tag = answer.headers.get('ETag') ?? ''
          heard((await answer.json()) as T)
        }
      } catch {
        // The server is away: asked again.
      }
    }
    timer = window.setTimeout(() => void look(), EVERY_MS)
  }
  const again = () => {
    if (document.visibilityState === 'visible') void look()
  }
  onMounted(() => {
    timer = window.setTimeout(() => void look(), EVERY_MS)
    document.addEventListener('visibilitychange', again)
  })
  onBeforeUnmount(() => {
    window.clearTimeout(timer)
    document.removeEventListener('visibilitychange', again)
  })
}

/** Told whenever what is behind an address has changed since it was looked at first. */
export function useChanged(address: string, changed: () => void): void {
  let first = true
  useMark(
    () => address,
    () => {
      if (!first) changed()
      first = false
    },
  )
}

/** Fields that a change touched, as they are called; what was done else. */
export function changeWords(change: string, labelOf: (path: string) => string): string {
  const named = change.split(', ').map((path) => {
    const label = labelOf(path)
    return label === path ? path.replace(/^.*\./, '').replaceAll('_', ' ') : label.toLowerCase()
  })
  return named.length > 3 ? `${named.slice(0, 3).join(', ')} and more` : named.join(', ')
}

/** What others change on the open starter is shown without a reload, and said. */
export function usePresence() {
  const starter = useStarter()
  const journal = useJournal()
  const wording = useWording()
  const note = ref('')
  const since = ref(0)
  const minutes = ref(0)
  let timer = 0
  let entries: number | null = null
  let of = 0

  function say(words: string): void {
    note.value = words
    since.value = Date.now()
    tick()
  }
  function tick(): void {
    window.clearTimeout(timer)
    minutes.value = Math.floor((Date.now() - since.value) / 60_000)
    if (Date.now() - since.value > SHOWN_MS) note.value = ''
    else timer = window.setTimeout(tick, 20_000)
  }
  function heard(now: StarterState): void {
    if (of !== starter.id) [of, entries] = [starter.id, null]
    if (now.version > starter.version && starter.state === 'saved') {
      const who = now.changed_by || 'Another page'
      void starter.renew().then((taken) => {
        if (taken) say(`${who} changed ${changeWords(now.change, wording.labelOf)}`)
      })
    }
    if (entries !== null && now.entries > entries && !journal.mine(now.entries)) {
      journal.renew()
      say(`${now.entered_by} wrote in the record`)
    }
    entries = now.entries
  }
  useMark<StarterState>(() => (starter.id ? `/api/starters/${starter.id}/state` : ''), heard)
  onBeforeUnmount(() => window.clearTimeout(timer))
  return { note, minutes }
}
