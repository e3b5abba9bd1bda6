import 'fake-indexeddb/auto'
import { clear, createStore } from 'idb-keyval'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, test } from 'vitest'

import { answering, settled, type Sent } from './answering'
import { useJournal } from './journal'
import { usePlayer } from './player'
import { useStarter } from './starter'

beforeEach(async () => {
  localStorage.clear()
  await clear(createStore('volmek', 'outbox'))
  setActivePinia(createPinia())
})

const kept = (version: number, document: unknown) => ({
  id: 7,
  board_id: 1,
  board: 'KG-2',
  job: 'Maltings',
  version,
  saved: '2026-11-28T10:00:00Z',
  document,
  design: null,
  problems: [],
})
let version = 1
const starterServer = (sent: Sent) =>
  sent.method === 'PUT'
    ? { body: kept(++version, sent.body.document) }
    : { body: kept(version, { tag: 'A', motor: {} }) }

test('typing on in one field is one step of undo, another field is another', async () => {
  answering(starterServer)
  const starter = useStarter()
  await starter.load(7)
  starter.set('motor.rated_power_kw', 7)
  starter.set('motor.rated_power_kw', 7.5)
  starter.set('motor.rated_speed_rpm', 1465)
  expect(starter.undoDepth).toBe(2)
  starter.undo()
  expect(starter.document).toEqual({ tag: 'A', motor: { rated_power_kw: 7.5 } })
  starter.undo()
  expect(starter.document).toEqual({ tag: 'A', motor: {} })
  starter.redo()
  expect(starter.document).toEqual({ tag: 'A', motor: { rated_power_kw: 7.5 } })
  expect([starter.undoDepth, starter.redoDepth]).toEqual([1, 1])
  await settled()
  expect(starter.state).toBe('saved')
})

test('the newest document is sent last, and a draft stays until the server has answered', async () => {
  const server = answering(starterServer)
  const starter = useStarter()
  await starter.load(7)
  let answer: (value?: unknown) => void = () => undefined
  server.delay = new Promise((resolve) => (answer = resolve))
  starter.set('tag', 'B')
  starter.set('tag', 'C')
  starter.set('tag', 'D')
  expect(JSON.parse(localStorage.getItem('volmek.draft.7')!)).toMatchObject({
    base: { tag: 'A', motor: {} },
    document: { tag: 'D', motor: {} },
  })
  server.delay = Promise.resolve()
  answer()
  await settled()
  const tags = server.sent
    .filter((s) => s.method === 'PUT')
    .map((s) => (s.body.document as { tag: string }).tag)
  expect(tags).toEqual(['B', 'D'])
  expect(localStorage.getItem('volmek.draft.7')).toBeNull()
})

test('a server that is away keeps the draft, which is sent when the starter is opened again', async () => {
  const server = answering(starterServer)
  const starter = useStarter()
  await starter.load(7)
  server.away = true
  starter.set('tag', 'offline')
  await settled()
  expect(starter.state).toBe('offline')
  server.away = false
  setActivePinia(createPinia())
  const again = useStarter()
  await again.load(7)
  await settled()
  expect(again.document.tag).toBe('offline')
  expect(again.state).toBe('saved')
})

test('a change elsewhere is joined, and a field that both changed is chosen before anything is sent', async () => {
  let theirs: Record<string, unknown> = { tag: 'A', motor: {} }
  let at = 1
  const server = answering((sent) => {
    if (sent.method !== 'PUT') return { body: kept(at, theirs) }
    if (sent.body.version !== at) return { status: 409, body: { problems: [] } }
    theirs = sent.body.document as Record<string, unknown>
    return { body: kept(++at, theirs) }
  })
  const starter = useStarter()
  await starter.load(7)
  theirs = { tag: 'THEIRS', motor: {} }
  at = 5
  starter.set('motor.rated_power_kw', 7.5)
  await settled()
  expect([starter.state, starter.joined]).toEqual(['saved', ['motor.rated_power_kw']])
  expect(theirs).toEqual({ tag: 'THEIRS', motor: { rated_power_kw: 7.5 } })
  theirs = { tag: 'AGAIN', motor: { rated_power_kw: 11 } }
  at = 9
  starter.set('motor.rated_power_kw', 15)
  await settled()
  expect([starter.state, starter.clashes.map((c) => [c.path, c.mine, c.theirs])]).toEqual([
    'stale',
    [['motor.rated_power_kw', 15, 11]],
  ])
  const before = server.sent.length
  starter.set('motor.rated_speed_rpm', 1465)
  await settled()
  expect(server.sent.length).toBe(before)
  starter.choose(new Set(['motor.rated_power_kw']))
  await settled()
  expect(starter.state).toBe('saved')
  expect(theirs).toEqual({ tag: 'AGAIN', motor: { rated_power_kw: 15, rated_speed_rpm: 1465 } })
})

const journalServer = (sent: Sent) => ({
  body: {
    results: (sent.body.entries as { key: string; kind: string }[]).map((e, i) =>
      e.kind === 'bad'
        ? { key: e.key, id: null, problems: [{ field: 'body', message: 'no', missing: false }] }
        : { key: e.key, id: i + 1, problems: [] },
    ),
  },
})

test('an entry stays in the outbox until the server has it, and keeps its key', async () => {
  const server = answering(journalServer)
  server.away = true
  const journal = useJournal()
  journal.setWho('E. Sallow')
  const key = journal.add(7, 'wire', { done: true })
  await settled()
  expect([journal.offline, journal.waiting]).toEqual([true, 1])
  server.away = false
  setActivePinia(createPinia())
  const again = useJournal()
  await settled()
  expect([again.waiting, again.offline]).toEqual([0, false])
  const entries = server.sent.flatMap((s) => s.body.entries as { key: string; who: string }[])
  expect(new Set(entries.map((e) => e.key))).toEqual(new Set([key]))
  expect(entries.at(-1)?.who).toBe('E. Sallow')
  expect(again.pending(7, 'wire')).toHaveLength(1)
  again.shown(7, 1)
  expect(again.pending(7, 'wire')).toHaveLength(0)
})

test('an entry that is refused is told and does not hold up the others', async () => {
  answering(journalServer)
  const journal = useJournal()
  const bad = journal.add(7, 'bad', {})
  journal.add(7, 'wire', {})
  await settled()
  expect(journal.waiting).toBe(0)
  expect(journal.refusedOf(7).map((r) => r.entry.key)).toEqual([bad])
  journal.dismiss(bad)
  expect(journal.refusedOf(7)).toHaveLength(0)
})

test('entries of two tabs stand beside each other, and a refused one is corrected and sent again', async () => {
  const server = answering(journalServer)
  server.away = true
  const one = useJournal()
  setActivePinia(createPinia())
  const other = useJournal()
  await settled()
  const keys = [one.add(7, 'wire', { n: 1 }), other.add(7, 'wire', { n: 2 })]
  await settled()
  setActivePinia(createPinia())
  const third = useJournal()
  await settled()
  expect(new Set(third.outbox.map((w) => w.entry.key))).toEqual(new Set(keys))
  server.away = false
  const bad = third.add(7, 'bad', { value: 9000 })
  await settled()
  expect([third.waiting, third.refusedOf(7).map((r) => r.entry.key)]).toEqual([0, [bad]])
  await third.correct(bad, { value: 9 })
  await settled()
  expect(third.refusedOf(7).map((r) => r.entry.body)).toEqual([{ value: 9 }])
  expect(third.refusedOf(7)[0]?.entry.key).not.toBe(bad)
})

test('the player goes on from the last snapshot, keeps what was, and forgets what lay ahead', async () => {
  // Each answer: one frame and one event up to its last operation, and one that is looked ahead.
  const server = answering((sent) => {
    const asked = sent.body as { operations: { at_s: number; do: string }[] }
    if (asked.operations.some((o) => o.do.startsWith('jump')))
      return {
        status: 422,
        body: { problems: [{ field: 'do', message: 'cannot', missing: false }] },
      }
    const last = asked.operations.at(-1)?.at_s ?? 0
    const timeline = {
      frames: [last, last + 5].map((time_s) => ({
        time_s,
        closed: [],
        live: [],
        on: [],
        positions: {},
      })),
      events: [last, last + 5].map((time_s) => ({ time_s, device: 'K1', words: `at ${time_s}` })),
      track: { time_s: [last, last + 2], speed_pct: [0, 100], current: [0, 1], heat_pct: [0, 2] },
      spans: [],
      gaps: [],
      quiet_s: 2,
      charted: ['K1'],
      settled: { frames: 1, track: 1, events: 1, spans: 0, gaps: 0 },
      snapshot: { time_s: last },
    }
    return { body: { timeline, mistakes: [] } }
  })
  const snapshots = () =>
    server.sent.map((s) => (s.body.snapshot as { time_s: number } | null)?.time_s ?? null)
  const player = usePlayer()
  await player.open(7)
  await player.operate('press S2', 0.4)
  await player.operate('release S2', 0.8)
  expect(snapshots()).toEqual([null, 0, 0.4])
  expect(server.sent.map((s) => (s.body.operations as unknown[]).length)).toEqual([0, 1, 1])
  expect(player.timeline?.events.map((e) => e.time_s)).toEqual([0, 0.4, 0.8, 5.8])
  player.time = 1.8
  expect(player.motor.speed).toBeCloseTo(50)
  expect([player.frame?.time_s, player.happened.length]).toEqual([0.8, 3])
  await player.operate('jump S2', 1.8)
  expect([player.refused, player.timeline?.events.length]).toEqual(['cannot', 4])
  // What is asked before the last operation comes right after it: nothing that was done is taken back.
  await player.operate('press S1', 0.5)
  expect(server.sent.at(-1)?.body.operations).toEqual([{ at_s: 0.8, do: 'press S1' }])
  player.toNext()
  expect([player.time, player.pace]).toEqual([5.8, 0])
  // A story can be left before its end; it is then played anew up to there.
  await player.replay([0.5, 1.7].map((at_s) => ({ at_s, do: 'press S2' })))
  await player.operate('press S1', 1)
  expect(server.sent.at(-1)?.body).toMatchObject({
    snapshot: null,
    operations: [
      { at_s: 0.5, do: 'press S2' },
      { at_s: 1, do: 'press S1' },
    ],
  })
  expect(server.sent.every((s) => s.path === '/api/starters/7/circuit/play')).toBe(true)
})
