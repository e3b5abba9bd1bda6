/**
 * Entries that wait on this device: one item each, so that two tabs never write over each other's, and a message to the other
 * tabs whenever one is put in or taken out.
 */
import { createStore, del, entries, set, type UseStore } from 'idb-keyval'

import type { Problem } from '@/api/client'

export type Order = 'control_first' | 'power_first'
export type Body = Record<string, unknown>
export type Entry = {
  key: string
  kind: string
  body: Body
  who: string
  /** Sign-in of a second person, whose entry it is. */
  second?: string
  said: string
  seen: number
  tag?: string
}
/** An entry on its way; refused ones say why, and wait until they are corrected or dismissed. */
export type Waiting = {
  starter: number
  order: Order
  entry: Entry
  at: number
  problems?: Problem[]
}

const OLD = ['volmek.outbox', 'volmek.refused']
let opened: UseStore | undefined
const store = () => (opened ??= createStore('volmek', 'outbox'))
const channel =
  typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel('volmek.outbox')

/** A key of its own; pages that came over a network without TLS have no `randomUUID`. */
export function newKey(): string {
  if (typeof crypto.randomUUID === 'function') return crypto.randomUUID()
  return [...crypto.getRandomValues(new Uint8Array(16))]
    .map((b) => b.toString(16).padStart(2, '0'))
    .join('')
}

/** Everything that waits, in the order in which it was written; what an earlier version kept is taken over. */
export async function waiting(): Promise<Waiting[]> {
  for (const name of OLD) {
    const text = localStorage.getItem(name)
    if (!text) continue
    const old = JSON.parse(text) as Omit<Waiting, 'at'>[]
    await Promise.all(old.map((w, i) => set(w.entry.key, { ...w, at: i }, store())))
    localStorage.removeItem(name)
  }
  const found = await entries<string, Waiting>(store())
  return found.map(([, w]) => w).sort((a, b) => a.at - b.at)
}

export async function put(one: Waiting): Promise<void> {
  // A copy without the page's reactive wrappers: only plain data can be stored.
  await set(one.entry.key, JSON.parse(JSON.stringify(one)) as Waiting, store())
  channel?.postMessage('changed')
}

export async function remove(keys: Iterable<string>): Promise<void> {
  await Promise.all([...keys].map((key) => del(key, store())))
  channel?.postMessage('changed')
}

/** Called whenever another tab has put something in or taken something out. */
export function onOthers(changed: () => void): void {
  channel?.addEventListener('message', changed)
}

/** One tab sends at a time; where the browser has no locks each may, since a key counts once. */
export async function alone(work: () => Promise<void>): Promise<void> {
  if (!navigator.locks) return work()
  await navigator.locks.request('volmek.outbox', { ifAvailable: true }, async (lock) => {
    if (lock) await work()
  })
}
