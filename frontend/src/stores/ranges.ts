import { defineStore } from 'pinia'
import { computed, shallowRef, watch } from 'vue'

import { client, type Held, type Ranges } from '@/api/client'
import { latest } from '@/stores/asked'
import { useStarter } from '@/stores/starter'

/** Pause after the last key before the server is asked [ms]. */
const PAUSE_MS = 500

/** How sure the open starter's design is: asked for half a second after the last key, never waited for. */
export const useRanges = defineStore('ranges', () => {
  const starter = useStarter()
  const answer = shallowRef<Ranges | null>(null)
  const of = shallowRef('')
  const newest = latest()
  let timer = 0

  const state = computed(() => `${starter.id} ${starter.saved}`)
  /** Ranges of the design as it is now; none while it is being worked out. */
  const now = computed(() =>
    of.value === state.value && starter.fresh && starter.design ? answer.value : null,
  )
  /** What does not hold over the range, by device: a verdict only where it may come to a stop. */
  const moving = computed(() => {
    const found = new Map<string, Held[]>()
    for (const h of now.value?.held ?? [])
      if (!h.holds && (h.what !== 'verdict' || h.others.includes('stop')))
        found.set(h.designation, [...(found.get(h.designation) ?? []), h])
    return found
  })

  async function ask(): Promise<void> {
    const asked = state.value
    const found = await newest(
      client
        .GET('/api/starters/{starter_id}/ranges', {
          params: { path: { starter_id: starter.id } },
        })
        .catch(() => null),
    )
    if (!found?.data?.ranges) return
    answer.value = found.data.ranges
    of.value = asked
  }

  watch(
    state,
    () => {
      window.clearTimeout(timer)
      if (starter.id !== 0 && starter.design) timer = window.setTimeout(() => void ask(), PAUSE_MS)
    },
    { immediate: true },
  )

  /** A figure's range as it is read: ``9 to 19``; empty where it does not move. */
  function spanOf(key: string): string {
    return now.value?.figures.find((x) => x.key === key)?.span ?? ''
  }

  return { now, moving, spanOf }
})
