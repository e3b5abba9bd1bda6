import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import { client, problemsOf, type Frame, type Mistake, type Timeline } from '@/api/client'
import { latest } from '@/stores/asked'

export interface Operation {
  at_s: number
  do: string
}

/** A touch that is shorter than this counts as this long: as quick as a thumb can be [s]. */
const SHORTEST_PRESS_S = 0.25

/** Operates the circuit: keeps what was done and when, and plays back what the core computed from it. */
export const usePlayer = defineStore('player', () => {
  const starterId = ref(0)
  const operations = ref<Operation[]>([])
  const faults = ref<string[]>([])
  const timeline = shallowRef<Timeline | null>(null)
  const mistakes = shallowRef<Mistake[]>([])
  const time = ref(0)
  const pace = ref(1)
  const refused = ref('')
  const pressedAt = new Map<string, number>()
  let animation = 0
  let before = 0

  const newest = latest()
  async function play(): Promise<void> {
    if (starterId.value === 0) return
    const answer = await newest(
      client.POST('/api/starters/{starter_id}/circuit/play', {
        params: { path: { starter_id: starterId.value } },
        body: { operations: operations.value, faults: faults.value, until_s: null },
      }),
    )
    if (!answer) return
    if (answer.data) {
      timeline.value = answer.data.timeline
      mistakes.value = answer.data.mistakes
      refused.value = ''
    } else {
      const problem = problemsOf(answer.error)[0]
      refused.value = problem?.message ?? 'The server does not answer.'
      if (problem?.field === 'do') operations.value = operations.value.slice(0, -1)
    }
  }

  /** Do something now; what was looked ahead from here on is forgotten. */
  async function operate(what: string, at = time.value): Promise<void> {
    const kept = operations.value.filter((o) => o.at_s <= at)
    operations.value = [...kept, { at_s: Math.max(at, kept.at(-1)?.at_s ?? 0), do: what }]
    if (pace.value === 0) pace.value = 1
    await play()
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
    operations.value = []
    pressedAt.clear()
    time.value = 0
    refused.value = ''
    await play()
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
  async function replay(story: Operation[]): Promise<void> {
    operations.value = story
    time.value = 0
    const pauses = story.slice(1).map((o, i) => o.at_s - (story[i]?.at_s ?? 0))
    pace.value = Math.min(...pauses, 1) < 0.2 ? 0.1 : 1
    await play()
  }

  return {
    starterId,
    operations,
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
    play,
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
