import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import { client, problemsOf } from '@/api/client'
import {
  alone,
  newKey,
  onOthers,
  put,
  remove,
  waiting as kept,
  type Body,
  type Entry,
  type Order,
  type Waiting,
} from '@/stores/outbox'
import { useMe } from '@/stores/me'
import { useStarter } from '@/stores/starter'

export type { Body, Order } from '@/stores/outbox'
export type Refused = Waiting & { problems: NonNullable<Waiting['problems']> }

const WHO = 'volmek.who'
const AGAIN_MS = 4000
const MOST = 200

/**
 * What is written at the panel, on its way to the server. An entry is kept here until the server has said that it is kept
 * there, or why it is not; its key makes sure that it counts once however often it is sent.
 */
export const useJournal = defineStore('journal', () => {
  const me = useMe()
  /** As typed where one person works alone; who has signed in else. Empty for who may not write. */
  const typedWho = ref(localStorage.getItem(WHO) ?? '')
  const who = computed(() => (me.workshop ? (me.may('works') ? me.name : '') : typedWho.value))
  const all = ref<Waiting[]>([])
  const outbox = computed(() => all.value.filter((w) => !w.problems))
  const refused = computed(() => all.value.filter((w): w is Refused => w.problems !== undefined))
  /** Nothing can be kept on this device, in the browser's words; the page must stay open then. */
  const unkept = ref('')
  /** Why the server could save nothing, in its words; empty where it does not answer at all. */
  const fault = ref('')
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

  const asIs = (error: unknown) => {
    unkept.value = error instanceof Error ? error.message : String(error)
  }
  /** What waits on this device, another tab's entries too; what this tab has only in memory stays. */
  async function look(): Promise<void> {
    try {
      const found = await kept()
      const stored = new Set(found.map((w) => w.entry.key))
      // What another tab has sent is shown again as the server has it.
      if (all.value.some((w) => !stored.has(w.entry.key) && !unsaved.has(w.entry.key)))
        arrived.value++
      all.value = [
        ...found,
        ...all.value.filter((w) => !stored.has(w.entry.key) && unsaved.has(w.entry.key)),
      ]
    } catch (error) {
      asIs(error)
    }
  }
  const unsaved = new Set<string>()
  async function store(one: Waiting): Promise<void> {
    unsaved.add(one.entry.key)
    all.value = [...all.value.filter((w) => w.entry.key !== one.entry.key), one]
    try {
      await put(one)
      unsaved.delete(one.entry.key)
      unkept.value = ''
    } catch (error) {
      asIs(error)
    }
  }
  async function drop(keys: ReadonlySet<string>): Promise<void> {
    all.value = all.value.filter((w) => !keys.has(w.entry.key))
    for (const key of keys) unsaved.delete(key)
    await remove(keys).catch(asIs)
  }
  function setWho(name: string): void {
    typedWho.value = name
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
  function add(
    starter: number,
    kind: string,
    body: Body,
    second?: { name: string; second: string },
  ): string {
    const key = newKey()
    const open = useStarter()
    const entry: Entry = {
      key,
      kind,
      body,
      who: second?.name ?? who.value.trim(),
      ...(second ? { second: second.second } : {}),
      said: new Date().toISOString(),
      seen: last.get(starter) ?? 0,
      tag: open.id === starter ? (open.document.tag ?? '') : '',
    }
    void store({
      starter,
      order: order.value,
      entry,
      at: Date.now() + all.value.length / 1000,
    }).then(() => send())
    return key
  }

  async function send(): Promise<void> {
    if (sending) return
    sending = true
    clearTimeout(timer)
    await alone(async () => {
      while (outbox.value.length > 0) {
        const { starter, order } = outbox.value[0]!
        const batch = outbox.value
          .filter((k) => k.starter === starter && k.order === order)
          .slice(0, MOST)
        if (!(await post(starter, order, batch))) break
      }
    })
    sending = false
    if (outbox.value.length > 0) timer = setTimeout(() => void send(), AGAIN_MS)
  }

  async function post(starter: number, order: Order, batch: Waiting[]): Promise<boolean> {
    try {
      const { data, error, response } = await client.POST('/api/starters/{starter_id}/journal', {
        params: { path: { starter_id: starter } },
        body: { order, entries: batch.map((k) => k.entry) },
      })
      offline.value = response.status >= 500 || response.status === 401
      fault.value = offline.value ? (problemsOf(error)[0]?.message ?? '') : ''
      if (offline.value) return false
      const results = new Map(data?.results.map((r) => [r.key, r]))
      const problems = problemsOf(error)
      const done = new Set<string>()
      for (const k of batch) {
        const result = results.get(k.entry.key)
        if (result?.id == null) await store({ ...k, problems: result?.problems ?? problems })
        else {
          fresh.value.push({ starter, id: result.id, entry: k.entry })
          own.add(result.id)
          done.add(k.entry.key)
        }
      }
      await drop(done)
      arrived.value++
      return true
    } catch {
      offline.value = true
      fault.value = ''
      return false
    }
  }

  /** Whether an entry was written here. */
  const own = new Set<number>()
  const mine = (id: number) => own.has(id)
  /** Somebody else has written: what is shown is asked for again. */
  function renew(): void {
    arrived.value++
  }

  function dismiss(key: string): void {
    void drop(new Set([key]))
  }
  /** Send a refused entry again, corrected where it was; it keeps the time at which it was written. */
  async function correct(key: string, body: Body): Promise<void> {
    const one = refused.value.find((r) => r.entry.key === key)
    if (!one) return
    const seen = last.get(one.starter) ?? one.entry.seen
    const entry = { ...one.entry, key: newKey(), body, seen }
    await drop(new Set([key]))
    await store({ starter: one.starter, order: one.order, entry, at: one.at })
    await send()
  }
  /** Entries of a starter that are still on their way, to the server or back into what is shown. */
  const pending = (starter: number, kind: string) =>
    [...fresh.value, ...outbox.value]
      .filter((k) => k.starter === starter && k.entry.kind === kind)
      .map((k) => k.entry)
  const refusedOf = (starter: number) => refused.value.filter((r) => r.starter === starter)

  window.addEventListener('online', () => void send())
  onOthers(() => void look())
  void look().then(() => send())

  return {
    who,
    setWho,
    order,
    setOrder,
    outbox,
    refused,
    offline,
    fault,
    unkept,
    arrived,
    waiting,
    add,
    send,
    dismiss,
    correct,
    pending,
    refusedOf,
    shown,
    mine,
    renew,
  }
})
