import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

import { client, type Binned } from '@/api/client'
import { wordsOf } from '@/stores/asked'
import { useJournal } from '@/stores/journal'

/** Starters that were removed from their boards, and the way back. */
export const useBin = defineStore('bin', () => {
  const starters = shallowRef<Binned[]>([])
  /** The one that was removed last on this page: its removal can be undone at once. */
  const last = ref<{ id: number; tag: string } | null>(null)
  const refused = ref('')

  async function load(): Promise<void> {
    const { data } = await client.GET('/api/bin')
    starters.value = data?.starters ?? []
  }

  async function remove(id: number, tag: string): Promise<boolean> {
    const { data, error } = await client.DELETE('/api/starters/{starter_id}', {
      params: { path: { starter_id: id }, query: { who: useJournal().who.trim() } },
    })
    refused.value = data ? '' : wordsOf(error)
    if (!data) return false
    starters.value = data.starters
    last.value = { id, tag }
    return true
  }

  async function putBack(id: number): Promise<boolean> {
    const { data, error } = await client.POST('/api/bin/{starter_id}/put-back', {
      params: { path: { starter_id: id } },
    })
    refused.value = data ? '' : wordsOf(error)
    if (last.value?.id === id && data) last.value = null
    await load()
    return data !== undefined
  }

  async function empty(id: number, tag: string): Promise<boolean> {
    const { data, error } = await client.DELETE('/api/bin/{starter_id}', {
      params: { path: { starter_id: id }, query: { tag, who: useJournal().who.trim() } },
    })
    refused.value = data ? '' : wordsOf(error)
    if (last.value?.id === id && data) last.value = null
    await load()
    return data !== undefined
  }

  return { starters, last, refused, load, remove, putBack, empty }
})
