import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import { client, problemsOf, type Frame, type Mistake, type Timeline } from '@/api/client'

export interface Operation {
  at_s: number
  do: string
}

/** A touch that is shorter than this counts as this long: as quick as a thumb can be [s]. */
const SHORTEST_PRESS_S = 0.25
/** Most rows of each kind that are kept of what has been; the oldest go first. */
const MOST_KEPT = 20000

type Past = Pick<Timeline, 'frames' | 'events' | 'spans' | 'gaps' | 'track'>
const COLUMNS = ['time_s', 'speed_pct', 'current', 'heat_pct'] as const
const nothing = (): Past => ({
  frames: [],
  events: [],
  spans: [],
  gaps: [],
  track: { time_s: [], speed_pct: [], current: [], heat_pct: [] },
})
/** What was, followed by what an answer adds to it: all of it, or only what lies up to its last operation. */
function joined(past: Past, next: Timeline, settled?: Timeline['settled']): Past {
  const rows = <T>(before: T[], after: T[], count?: number): T[] => [
    ...before.slice(-MOST_KEPT),
    ...after.slice(0, count),
  ]
  return {
    frames: rows(past.frames, next.frames, settled?.frames),
    events: rows(past.events, next.events, settled?.events),
    spans: rows(past.spans, next.spans, settled?.spans),
    gaps: rows(past.gaps, next.gaps, settled?.gaps),
    track: Object.fromEntries(
      COLUMNS.map((c) => [c, rows(past.track[c], next.track[c], settled?.track)]),
    ) as Past['track'],
  }
}

/** Operates the circuit: each operation goes on from the snapshot of the last answer, and what the core computed is played back. */
export const usePlayer = defineStore('player', () => {
  const starterId = ref(0)
  /** Operations of a story that is played back; it can be left at any moment before its end. */
  const story = ref<Operation[]>([])
  const faults = ref<string[]>([])
  const timeline = shallowRef<Timeline | null>(null)
  const mistakes = shallowRef<Mistake[]>([])
  const time = ref(0)
  const pace = ref(1)
  const refused = ref('')
  const pressedAt = new Map<string, number>()
  let animation = 0
  let before = 0

  let past = nothing()
  let snapshot: Timeline['snapshot'] | null = null
  /** One request after the other, each going on from the answer to the one before; of a simulation that was reset none counts. */
  let turn = Promise.resolve()
  let round = 0

  function forget(): void {
    round += 1
    past = nothing()
    snapshot = null
    story.value = []
  }
  function play(more: Operation[]): Promise<void> {
    const mine = round
    turn = turn.then(() => ask(more, mine))
    return turn
  }
  async function ask(more: Operation[], mine: number): Promise<void> {
    if (starterId.value === 0 || mine !== round) return
    const from = snapshot?.time_s ?? 0
    const answer = await client
      .POST('/api/starters/{starter_id}/circuit/play', {
        params: { path: { starter_id: starterId.value } },
        body: {
          operations: more.map((o) => ({ ...o, at_s: Math.max(o.at_s, from) })),
          faults: faults.value,
          until_s: null,
          snapshot,
        },
      })
      .catch(() => ({ data: undefined, error: undefined }))
    if (mine !== round) return
    if (answer.data) {
      const next = answer.data.timeline
      timeline.value = { ...next, ...joined(past, next) }
      past = joined(past, next, next.settled)
      snapshot = next.snapshot
      mistakes.value = answer.data.mistakes
      refused.value = ''
    } else {
      refused.value = problemsOf(answer.error)[0]?.message ?? 'The server does not answer.'
    }
  }

  /** Do something now; what was looked ahead from here on is forgotten. */
  async function operate(what: string, at = time.value): Promise<void> {
    if (pace.value === 0) pace.value = 1
    const left = story.value.filter((o) => o.at_s <= at)
    if (left.length < story.value.length) {
      forget()
      await play([...left, { at_s: at, do: what }])
      return
    }
    story.value = []
    await play([{ at_s: at, do: what }])
  }
  function press(name: string): void {
    pressedAt.set(name, time.value)
    void operate(`press ${name}`)
  }
  function release(name: string): void {
    const since = pressedAt.get(name)
    if (since === undefined) return
    pressedAt.delete(name)
    void operate(`release ${name}`, Math.max(time.value, since + SHORTEST_PRESS_S))
  }

  const end = computed(() => timeline.value?.track.time_s.at(-1) ?? 0)
  const frame = computed<Frame | null>(() => {
    const frames = timeline.value?.frames ?? []
    let low = 0
    for (let high = frames.length - 1; low < high;) {
      const middle = Math.ceil((low + high) / 2)
      if ((frames[middle]?.time_s ?? 0) <= time.value + 1e-9) low = middle
      else high = middle - 1
    }
    return frames[low] ?? null
  })
  /** The motor now, on the straight line between two computed samples. */
  const motor = computed(() => {
    const track = timeline.value?.track
    if (!track || track.time_s.length === 0) return { speed: 0, current: 0, heat: 0 }
    let i = track.time_s.findIndex((t) => t > time.value)
    if (i < 0) i = track.time_s.length - 1
    const a = Math.max(i - 1, 0)
    const from = track.time_s[a] ?? 0
    const to = track.time_s[i] ?? from
    const share = to > from ? Math.min(Math.max((time.value - from) / (to - from), 0), 1) : 1
    const at = (values: number[]) =>
      (values[a] ?? 0) + ((values[i] ?? 0) - (values[a] ?? 0)) * share
    return { speed: at(track.speed_pct), current: at(track.current), heat: at(track.heat_pct) }
  })
  const happened = computed(() =>
    (timeline.value?.events ?? []).filter((e) => e.time_s <= time.value + 1e-9),
  )

  function tick(now: number): void {
    if (before) time.value += Math.min((now - before) / 1000, 0.25) * pace.value
    before = now
    animation = requestAnimationFrame(tick)
  }
  function start(): void {
    before = 0
    if (!animation) animation = requestAnimationFrame(tick)
  }
  function stop(): void {
    cancelAnimationFrame(animation)
    animation = 0
  }
  /** On to the next moment at which something moves by itself, and stand there. */
  function toNext(): void {
    const next = timeline.value?.frames.find((f) => f.time_s > time.value + 1e-6)
    time.value = next ? next.time_s : Math.max(end.value, time.value)
    pace.value = 0
  }

  async function open(id: number): Promise<void> {
    starterId.value = id
    faults.value = []
    await again()
  }
  /** Reset the simulation; the inserted faults stay. */
  async function again(): Promise<void> {
    forget()
    pressedAt.clear()
    time.value = 0
    refused.value = ''
    await play([])
  }
  async function setFaults(next: string[]): Promise<void> {
    faults.value = next
    await again()
    if (refused.value) {
      const said = refused.value
      faults.value = faults.value.slice(0, -1)
      await again()
      refused.value = said
    }
  }
  /** Replay a story of the proof; what happens within moments is shown slowly. */
  async function replay(told: Operation[]): Promise<void> {
    forget()
    story.value = told
    time.value = 0
    const pauses = told.slice(1).map((o, i) => o.at_s - (told[i]?.at_s ?? 0))
    pace.value = Math.min(...pauses, 1) < 0.2 ? 0.1 : 1
    await play(told)
  }

  return {
    starterId,
    faults,
    timeline,
    mistakes,
    time,
    pace,
    refused,
    end,
    frame,
    motor,
    happened,
    operate,
    press,
    release,
    start,
    stop,
    toNext,
    open,
    again,
    setFaults,
    replay,
  }
})
