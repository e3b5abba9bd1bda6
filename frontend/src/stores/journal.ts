import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import { client, type Problem } from '@/api/client'

export type Order = 'control_first' | 'power_first'
export type Body = Record<string, unknown>
type Entry = { key: string; kind: string; body: Body; who: string; said: string; seen: number }
type Kept = { starter: number; order: Order; entry: Entry }
export type Refused = Kept & { problems: Problem[] }

const OUTBOX = 'volmek.outbox'
const REFUSED = 'volmek.refused'
const WHO = 'volmek.who'
const AGAIN_MS = 4000
const MOST = 200

function stored<T>(name: string): T[] {
  try {
    return JSON.parse(localStorage.getItem(name) ?? '[]') as T[]
  } catch {
    return []
  }
}

/**
 * What is written at the panel, on its way to the server. An entry is kept here until the server has said that it is kept
 * there, or why it is not; its key makes sure that it counts once however often it is sent.
 */
export const useJournal = defineStore('journal', () => {
  const who = ref(localStorage.getItem(WHO) ?? '')
  const outbox = ref<Kept[]>(stored<Kept>(OUTBOX))
  const refused = ref<Refused[]>(stored<Refused>(REFUSED))
  const offline = ref(false)
  /** Goes up whenever the server has kept something: what is shown is asked for again. */
  const arrived = ref(0)
  const order = ref<Order>(
    (localStorage.getItem('volmek.order') as Order | null) ?? 'control_first',
  )
  /** Entries that the server has kept since what is shown was asked for: they still stand over it. */
  const fresh = ref<{ starter: number; id: number; entry: Entry }[]>([])
  const last = new Map<number, number>()
  let sending = false
  let timer: ReturnType<typeof setTimeout> | undefined

  const waiting = computed(() => outbox.value.length)

  function keep(): void {
    localStorage.setItem(OUTBOX, JSON.stringify(outbox.value))
    localStorage.setItem(REFUSED, JSON.stringify(refused.value))
  }
  function setWho(name: string): void {
    who.value = name
    localStorage.setItem(WHO, name)
  }
  function setOrder(wanted: Order): void {
    order.value = wanted
    localStorage.setItem('volmek.order', wanted)
  }
  /** The last entry of a starter that this page has shown. */
  function shown(starter: number, id: number): void {
    last.set(starter, Math.max(last.get(starter) ?? 0, id))
    fresh.value = fresh.value.filter((f) => f.starter !== starter || f.id > id)
  }

  /** Write an entry; returns its key. */
  function add(starter: number, kind: string, body: Body): string {
    const key = crypto.randomUUID()
    const entry = {
      key,
      kind,
      body,
      who: who.value.trim(),
      said: new Date().toISOString(),
      seen: last.get(starter) ?? 0,
    }
    outbox.value.push({ starter, order: order.value, entry })
    keep()
    void send()
    return key
  }

  async function send(): Promise<void> {
    if (sending) return
    sending = true
    clearTimeout(timer)
    while (outbox.value.length > 0) {
      const { starter, order } = outbox.value[0]!
      const batch = outbox.value
        .filter((k) => k.starter === starter && k.order === order)
        .slice(0, MOST)
      if (!(await post(starter, order, batch))) break
    }
    sending = false
    if (outbox.value.length > 0) timer = setTimeout(() => void send(), AGAIN_MS)
  }

  async function post(starter: number, order: Order, batch: Kept[]): Promise<boolean> {
    try {
      const { data, error, response } = await client.POST('/api/starters/{starter_id}/journal', {
        params: { path: { starter_id: starter } },
        body: { order, entries: batch.map((k) => k.entry) },
      })
      offline.value = response.status >= 500
      if (offline.value) return false
      const results = new Map(data?.results.map((r) => [r.key, r]))
      const problems = (error as { problems?: Problem[] } | undefined)?.problems ?? []
      for (const k of batch) {
        const result = results.get(k.entry.key)
        if (result?.id == null) refused.value.push({ ...k, problems: result?.problems ?? problems })
        else fresh.value.push({ starter, id: result.id, entry: k.entry })
      }
      const done = new Set(batch.map((k) => k.entry.key))
      outbox.value = outbox.value.filter((k) => !done.has(k.entry.key))
      keep()
      arrived.value++
      return true
    } catch {
      offline.value = true
      return false
    }
  }

  function dismiss(key: string): void {
    refused.value = refused.value.filter((r) => r.entry.key !== key)
    keep()
  }
  /** Entries of a starter that are still on their way, to the server or back into what is shown. */
  const pending = (starter: number, kind: string) =>
    [...fresh.value, ...outbox.value]
      .filter((k) => k.starter === starter && k.entry.kind === kind)
      .map((k) => k.entry)
  const refusedOf = (starter: number) => refused.value.filter((r) => r.starter === starter)

  window.addEventListener('online', () => void send())
  void send()

  return {
    who,
    setWho,
    order,
    setOrder,
    outbox,
    refused,
    offline,
    arrived,
    waiting,
    add,
    send,
    dismiss,
    pending,
    refusedOf,
    shown,
  }
})
