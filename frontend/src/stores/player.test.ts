import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, test, vi } from 'vitest'

import type { Timeline } from '@/api/client'

const asked: { operations: { at_s: number; do: string }[]; faults: string[] }[] = []
let refuse: { field: string; message: string } | null = null

function timeline(operations: { at_s: number; do: string }[]): Timeline {
  const frames = [0, ...operations.map((o) => o.at_s + 0.04)].map((time_s, i) => ({
    time_s,
    closed: [],
    live: [],
    on: i % 2 ? ['K1'] : [],
    positions: {},
    connection: i % 2 ? 'delta' : 'off',
    direction: i % 2 ? 'forward' : 'none',
  }))
  const track = {
    time_s: [0, 1, 2],
    speed_pct: [0, 50, 90],
    current: [0, 6, 1],
    heat_pct: [0, 3, 4],
  }
  const events = operations.map((o) => ({ time_s: o.at_s, device: '', words: o.do }))
  return { frames, track, events, spans: [], gaps: [], quiet_s: 2 }
}

vi.mock('@/api/client', () => ({
  problemsOf: (error: { problems: unknown[] }) => error.problems,
  client: {
    POST: (_path: string, { body }: { body: (typeof asked)[number] }) => {
      asked.push(JSON.parse(JSON.stringify(body)))
      return Promise.resolve(
        refuse
          ? { error: { problems: [refuse] } }
          : { data: { timeline: timeline(body.operations), mistakes: [] } },
      )
    },
  },
}))

const { usePlayer } = await import('./player')
const settle = () => new Promise((resolve) => setTimeout(resolve))

beforeEach(() => {
  setActivePinia(createPinia())
  asked.length = 0
  refuse = null
})

test('an operation is kept with its time and what was looked ahead is forgotten', async () => {
  const player = usePlayer()
  await player.open(7)
  player.time = 1
  await player.operate('press S2')
  player.time = 3
  await player.operate('press S1')
  player.time = 2
  await player.operate('trip F1')
  expect(asked.at(-1)?.operations).toEqual([
    { at_s: 1, do: 'press S2' },
    { at_s: 2, do: 'trip F1' },
  ])
})

test('a short press counts as a quarter of a second, a long one as long as it was', async () => {
  const player = usePlayer()
  await player.open(7)
  player.time = 1
  player.press('S2')
  player.time = 1.02
  player.release('S2')
  await settle()
  expect(player.operations.at(-1)).toEqual({ at_s: 1.25, do: 'release S2' })
  player.time = 2
  player.press('S1')
  player.time = 4
  player.release('S1')
  await settle()
  expect(player.operations.at(-1)).toEqual({ at_s: 4, do: 'release S1' })
  player.release('S1') // nothing was pressed any more
  expect(player.operations).toHaveLength(4)
})

test('the frame is the last one that has come, and speed lies between two samples', async () => {
  const player = usePlayer()
  await player.open(7)
  player.time = 0.5
  await player.operate('press S2')
  expect(player.frame?.connection).toBe('off')
  player.time = 0.6
  expect(player.frame?.connection).toBe('delta')
  player.time = 1.5
  expect(player.motor).toEqual({ speed: 70, current: 3.5, heat: 3.5 })
  player.time = 99
  expect(player.motor.speed).toBe(90)
  expect(player.happened.map((e) => e.words)).toEqual(['press S2'])
})

test('the next event is where something moves, and time stands there', async () => {
  const player = usePlayer()
  await player.open(7)
  player.time = 0.5
  await player.operate('press S2')
  player.toNext()
  expect([player.time, player.pace]).toEqual([0.54, 0])
  player.toNext()
  expect(player.time).toBe(2)
})

test('what is refused is said and forgotten; faults that are refused are taken out again', async () => {
  const player = usePlayer()
  await player.open(7)
  refuse = { field: 'do', message: 'cannot be done here' }
  await player.operate('dance')
  expect(player.refused).toBe('cannot be done here')
  expect(player.operations).toEqual([])
  refuse = { field: 'fault', message: 'cannot be here' }
  await player.setFaults(['bend K1'])
  expect(player.refused).toBe('cannot be here')
  expect(player.faults).toEqual([])
  refuse = null
  await player.setFaults(['weld K1'])
  expect(player.faults).toEqual(['weld K1'])
  expect(asked.at(-1)).toEqual({ operations: [], faults: ['weld K1'], until_s: null })
})

test('a story within moments is replayed slowly, one with pauses in its own time', async () => {
  const player = usePlayer()
  await player.open(7)
  await player.replay([
    { at_s: 0.5, do: 'press S2' },
    { at_s: 0.502, do: 'release S2' },
  ])
  expect(player.pace).toBe(0.1)
  await player.replay([
    { at_s: 0.5, do: 'press S2' },
    { at_s: 1.7, do: 'trip F1' },
  ])
  expect([player.pace, player.time]).toEqual([1, 0])
  await player.again()
  expect(player.operations).toEqual([])
})
